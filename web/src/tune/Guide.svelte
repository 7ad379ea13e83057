<script lang="ts">
  // A guide, full screen, one step at a time: moved on by a key or pedal, by a tap on the drum, or by itself.
  import { NoMicrophone, type Microphone, openMicrophone } from '../listening/microphone';
  import { isUpright } from '../kit/kinds.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import LugRing from './LugRing.svelte';
  import { guide } from './guide.svelte';
  import { TapSwitch } from './switch';
  import Stage from '../shell/Stage.svelte';

  let byTap = $state(false);
  let byItself = $state(false);
  let left = $state(0);
  let problem = $state('');

  const step = $derived(guide.steps[guide.at]);
  /** Which lug of the step's round; pedals go through them one by one. */
  const lug = $derived(step?.lugs[guide.lug]);
  const then = $derived(step?.lugs[guide.lug + 1]);

  $effect(() => {
    if (!byTap || !guide.open) return;
    let microphone: Microphone | undefined;
    let gone = false;
    const heard = new TapSwitch(() => guide.forward());
    openMicrophone(
      (_, samples) => heard.push(samples, performance.now()),
      (why) => (problem = why),
    )
      .then((opened) => {
        if (gone) opened.close();
        else microphone = opened;
      })
      .catch((error: unknown) => {
        byTap = false;
        problem = error instanceof NoMicrophone ? error.message : String(error);
      });
    return () => {
      gone = true;
      microphone?.close();
    };
  });

  $effect(() => {
    if (!byItself || !step) return;
    // A round shares its time among its lugs.
    left = Math.max(3, Math.round(step.seconds / Math.max(1, step.lugs.length)));
    void guide.lug;
    const timer = setInterval(() => {
      left -= 1;
      if (left <= 0) guide.forward();
    }, 1000);
    return () => clearInterval(timer);
  });
</script>

{#if step}
  <Stage titleId="seat-title" roomBelow>
    <div class="flex flex-wrap items-start gap-x-4 gap-y-2">
      <p class="grow text-xl opacity-80">
        {guide.title}: step {guide.at + 1} of {guide.steps.length}{#if byItself}, on in {left} s{/if}
      </p>
      <button class="btn" disabled={guide.at === 0 && guide.lug === 0} onclick={() => guide.back()}>Back <kbd>←</kbd></button>
      <button class="btn" onclick={() => guide.close()}>Close <kbd>Esc</kbd></button>
    </div>
    <h2 id="seat-title" class="mt-2 text-4xl leading-tight sm:text-6xl" style="color: var(--ember-1)">{step.title}</h2>
    <div class="grid grow items-center gap-6 py-4 {step.lugs.length > 0 ? 'md:grid-cols-[minmax(0,2fr)_minmax(0,3fr)]' : ''}">
      {#if step.lugs.length > 0}
        <div class="mx-auto aspect-square w-full max-w-[min(48vh,28rem)]">
          <LugRing
            lugs={drumKit.drum?.drum.lugs ?? step.lugs.length}
            lit={lug}
            {then}
            done={step.lugs.slice(0, guide.lug)}
            floor={drumKit.drum !== undefined && isUpright(drumKit.drum.drum.kind)}
          />
        </div>
      {/if}
      <div>
        {#if lug !== undefined}
          <p class="display mb-4 text-5xl" aria-live="polite">
            Lug {lug + 1}{then !== undefined ? `, then ${then + 1}` : step.lugs.length > 1 ? ', the last' : ''}
          </p>
        {/if}
        <p class="max-w-3xl text-2xl leading-snug sm:text-3xl">{step.detail}</p>
        {#if step.caution}
          <p class="mt-5 max-w-3xl text-xl" style="color: var(--ember-1)">{step.caution}</p>
        {/if}
        {#if step.lugs.length > 3 && guide.lug === 0}
          <p class="mt-4 text-lg opacity-80">Lug 1 has the thick rim: mark it on the hoop, so that you do not lose where you began.</p>
        {/if}
      </div>
    </div>
    {#if problem}<p class="mb-2 text-xl" role="alert">{problem}</p>{/if}
    <div class="flex flex-wrap items-center gap-x-6 gap-y-3">
      <button class="btn btn-primary btn-lg" onclick={() => guide.forward()}
        >{guide.last ? 'Done' : lug !== undefined && then !== undefined ? 'Next lug' : 'Next step'} <kbd>→</kbd></button
      >
      <label class="flex items-center gap-2 text-lg"
        ><input type="checkbox" class="toggle" bind:checked={byTap} />A knock on the drum goes on</label
      >
      <label class="flex items-center gap-2 text-lg"
        ><input type="checkbox" class="toggle" bind:checked={byItself} />Goes on by itself</label
      >
    </div>
  </Stage>
{/if}
