<script lang="ts">
  // Full screen while it listens, for someone two metres away with sticks in both hands.
  import QualityBar from '../bench/QualityBar.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { decibels, seconds, said } from '../shell/figures';
  import { listening } from './listen.svelte';
  import NotListening from './NotListening.svelte';
  import Stage from '../shell/Stage.svelte';

  const QUIETEST = -70;
  /** Levels (5 ms RMS) in which strikes measure well, dBFS. */
  const GOOD = { low: -40, high: -6 };

  const HOW = { soft: said('softly'), medium: 'at medium strength', hard: said('hard') };

  const { walk } = $derived(listening);
  const name = $derived(walk?.drums[walk.at]?.name ?? drumKit.drum?.drum.name ?? 'drum');
  const how = $derived(listening.asked ? ` ${HOW[listening.asked]}` : '');
  const share = (db: number) => `${100 * Math.max(0, Math.min(1, 1 - db / QUIETEST))}%`;
  const verdict = $derived.by(() => {
    const { last, soundsLike } = listening;
    if (!last) return undefined;
    if (soundsLike) return `That sounds like the ${soundsLike}. Hit the ${name}.`;
    const [sentence] = last.advice;
    if (!sentence && !last.quality.known) return 'Heard, but it is not clear how long it sounds.';
    return sentence ?? `Good. Body ${seconds(last.profile.body_t60_s)}, ring ${seconds(last.profile.ring_t60_s)}.`;
  });
  const asks = $derived.by(() => {
    switch (listening.stage) {
      case 'announced':
        return `Now: ${name}`;
      case 'opening':
        return listening.hearing === 'microphone' ? 'Allow the microphone …' : 'The simulated drum sits down …';
      case 'ending':
        return 'Working on the last strike …';
      default:
        if (listening.ringing) return 'Let it ring out …';
        return listening.hearing === 'simulated' ? `The simulated ${name} plays${how}.` : `Hit the ${name}${how}.`;
    }
  });
</script>

{#if listening.open}
  <Stage titleId="stage-title">
    {#if listening.stage === 'failed' || listening.stage === 'busy'}
      <NotListening
        titleId="stage-title"
        busy={listening.stage === 'busy'}
        problem={listening.problem}
        again="Try again"
        back="Back to the bench"
        onagain={() => (listening.stage === 'busy' ? listening.takeOver() : listening.again())}
        onclose={() => listening.close()}
      >
        {#if listening.good > 0}<p class="mb-8 text-xl">Kept: {listening.good} of {listening.each} good strikes.</p>{/if}
      </NotListening>
    {:else}
      <div class="flex items-start gap-4">
        <h2 id="stage-title" class="grow text-3xl leading-tight sm:text-6xl">{asks}</h2>
        <div class="flex flex-wrap justify-end gap-2">
          {#if walk}<button class="btn btn-lg" onclick={() => listening.skip()}>Skip it <kbd>S</kbd></button>{/if}
          <button class="btn btn-lg" onclick={() => listening.stop()}>Stop <kbd>Esc</kbd></button>
        </div>
      </div>
      {#if walk}
        <ol class="mt-3 flex flex-wrap gap-x-5 gap-y-1 text-lg sm:text-2xl" aria-label="The whole kit">
          {#each walk.drums as drum, i (drum.id)}
            <li
              class={i === walk.at ? 'border-b-4 font-semibold' : 'opacity-75'}
              style={i === walk.at ? 'border-color: var(--ember-2)' : ''}
              aria-current={i === walk.at ? 'step' : undefined}
            >
              {i < walk.at ? '✓ ' : ''}{drum.name}
            </li>
          {/each}
        </ol>
      {/if}
      <div class="my-auto grid items-center gap-x-12 gap-y-2 py-4 lg:grid-cols-[auto_1fr]">
        <p class="display leading-none whitespace-nowrap" aria-label="{listening.good} of {listening.each} good strikes">
          <span class="text-[min(40vw,46vh)]" style="color: var(--ember-1)">{listening.good}</span><span
            class="text-[min(12vw,14vh)] opacity-70"
          >
            of {listening.each}</span
          >
        </p>
        <div>
          {#if verdict}
            <p class="text-2xl leading-snug sm:text-4xl {listening.last?.advice.length ? 'font-semibold' : ''}">
              {listening.last?.advice.length ? 'Again, please. ' : ''}{verdict}
            </p>
          {:else}
            <p class="text-2xl leading-snug opacity-80 sm:text-4xl">
              {listening.asked
                ? 'Softly first, then medium, then hard: each clearly louder than the one before. Let each strike ring out.'
                : 'Same spot, same strength. Let each strike ring out before the next.'}
            </p>
          {/if}
          {#if listening.last && !listening.last.advice.length}
            <div class="mt-4 opacity-90"><QualityBar quality={listening.last.quality} large /></div>
            {#each listening.last.noted as sentence (sentence)}<p class="mt-2 text-xl">{sentence}</p>{/each}
          {/if}
          {#if listening.rejected > 0}<p class="mt-3 text-xl opacity-80">{listening.rejected} left out so far.</p>{/if}
          {#each listening.warnings as warning (warning)}<p class="mt-3 text-xl" style="color: var(--ember-1)">{warning}</p>{/each}
        </div>
      </div>
      <div aria-hidden="true">
        <div class="relative h-10 overflow-hidden rounded" style="background: var(--ember-6)">
          <div
            class="h-full"
            style="width: {share(
              listening.levelDbfs,
            )}; background: linear-gradient(to right, var(--ember-5), var(--ember-3) 60vw, var(--ember-1) 90vw)"
          ></div>
          {#if listening.strikeDbfs > QUIETEST}
            <div class="absolute inset-y-0 w-1.5" style="left: calc({share(listening.strikeDbfs)} - 6px); background: var(--ember-0)"></div>
          {/if}
          <div
            class="absolute inset-y-0 border-x-2"
            style="left: {share(GOOD.low)}; right: calc(100% - {share(GOOD.high)}); border-color: var(--chalk)"
          ></div>
        </div>
        <p class="mt-2 flex justify-between text-lg opacity-80">
          <span>Input level: strikes should end up between the chalk lines</span>
          <span class="whitespace-nowrap"
            >{listening.strikeDbfs <= QUIETEST ? 'No strike yet' : `Last strike ${decibels(listening.strikeDbfs)}FS`}</span
          >
        </p>
      </div>
      <p class="mt-3 text-base opacity-80">Drums are loud at the ear: protect your hearing and rest between takes.</p>
    {/if}
  </Stage>
{/if}
