<script lang="ts">
  // Full screen while a round is tapped, for someone bent over the drum with a stick or key in the hand.
  import { drumKit } from '../kit/drumKit.svelte';
  import { isUpright } from '../kit/kinds.svelte';
  import NotListening from '../listening/NotListening.svelte';
  import HoopRibbon from './HoopRibbon.svelte';
  import LugRing from './LugRing.svelte';
  import { tapping } from './tapping.svelte';
  import { tune } from './tune.svelte';
  import Stage from '../shell/Stage.svelte';

  const QUIETEST = -70;
  const name = $derived(drumKit.drum?.drum.name ?? 'drum');
  const tuning = $derived(tune.tuning);
  const heard = $derived(tapping.round?.pitches.lugs.map((pitch) => pitch.lug) ?? []);
  const asks = $derived.by(() => {
    if (tapping.stage === 'opening') return tapping.hearing === 'microphone' ? 'Allow the microphone …' : 'The simulated head is set up …';
    if (tapping.stage === 'ending') return 'Stopping …';
    return tapping.askedLug === undefined ? 'Heard' : `Tap lug ${tapping.askedLug + 1}`;
  });
  const then = $derived.by(() => {
    const order = tuning?.order ?? [];
    const left = order.filter((lug) => !heard.includes(lug) && lug !== tapping.askedLug);
    return left[0];
  });
  const share = $derived(`${100 * Math.max(0, Math.min(1, 1 - tapping.levelDbfs / QUIETEST))}%`);
</script>

{#if tapping.open && tuning}
  <Stage titleId="tap-title">
    {#if tapping.stage === 'failed' || tapping.stage === 'busy'}
      <NotListening
        titleId="tap-title"
        busy={tapping.stage === 'busy'}
        problem={tapping.problem}
        again="Go on with the round"
        back="Back to tuning"
        onagain={() => (tapping.stage === 'busy' ? tapping.takeOver() : tapping.again())}
        onclose={() => tapping.close()}
      />
    {:else}
      <div class="flex flex-wrap items-start gap-x-4 gap-y-2">
        <h2 id="tap-title" class="grow text-5xl leading-none sm:text-7xl" style="color: var(--ember-1)">{asks}</h2>
        <div class="flex flex-wrap gap-2">
          <button class="btn sm:btn-lg" onclick={() => tapping.move('back')}>Back <kbd>←</kbd></button>
          <button class="btn sm:btn-lg" onclick={() => tapping.move('next')}>Skip <kbd>→</kbd></button>
          <button class="btn sm:btn-lg" onclick={() => tapping.stop()}>Stop <kbd>Esc</kbd></button>
        </div>
      </div>
      <div class="grid grow items-center gap-4 py-3 md:grid-cols-[minmax(0,2fr)_minmax(0,3fr)]">
        <div class="mx-auto aspect-square w-full max-w-[min(46vh,26rem)]">
          <LugRing lugs={tuning.lugs} lit={tapping.askedLug} done={heard} {then} floor={isUpright(tuning.drum.kind)} />
        </div>
        <div class="min-w-0">
          <p class="mb-3 min-h-[3.2em] text-2xl leading-snug sm:text-3xl {tapping.verdict?.fault ? 'font-semibold' : ''}">
            {#if tapping.verdict}
              {tapping.verdict.sentence}
            {:else}
              {name}: {tuning.other_head ? `mute the ${tuning.other_head}, then ` : ''}one tap with the stick’s tip an inch inside the hoop.
              Wait for the next number.
            {/if}
          </p>
          {#if tapping.verdict?.fault === 'retuned'}
            <button class="btn btn-primary btn-lg mb-3" onclick={() => tapping.anew()}>A rod was turned: begin a new round</button>
          {/if}
          {#each tapping.warnings as warning (warning)}<p class="mb-3 text-xl" style="color: var(--ember-1)">{warning}</p>{/each}
          <HoopRibbon
            lugs={tuning.lugs}
            order={tuning.order}
            pitches={tapping.round?.pitches.lugs ?? []}
            reference={tapping.round?.pitches.mean_hz ?? undefined}
            wished={false}
            lit={tapping.askedLug}
            height={220}
          />
        </div>
      </div>
      <div class="h-6 overflow-hidden rounded" style="background: var(--ember-6)" aria-hidden="true">
        <div
          class="h-full"
          style="width: {share}; background: linear-gradient(to right, var(--ember-5), var(--ember-3) 60vw, var(--ember-1) 90vw)"
        ></div>
      </div>
      <p class="mt-2 text-base opacity-80">
        {heard.length} of {tuning.lugs} lugs heard. Keep the key off the rods until the round is done.
      </p>
    {/if}
  </Stage>
{/if}
