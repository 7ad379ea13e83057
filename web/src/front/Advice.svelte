<script lang="ts">
  // Whether to cut, in large letters, and the trial that can be undone.
  import type { FrontPage } from '../api/types';
  import { workbench } from '../bench/workbench.svelte';
  import { view } from '../shell/view.svelte';
  import { hertz, seconds, within } from '../shell/figures';
  import { fronts } from './front.svelte';
  import { beatWords, openingWords } from './say';
  import { hasPedal, otherHead } from '../kit/kinds.svelte';

  let { page }: { page: FrontPage } = $props();
  let written = $state(fronts.bass);

  const which = $derived(within(otherHead(page.drum.kind)));
  const closed = $derived(page.front.state === 'whole');
  /** The drum as it is, where its beater stays in the head. */
  const leftIn = $derived(
    fronts.beater === 'buried' && hasPedal(page.drum.kind) && !page.laid ? page.ways.find((way) => way.now) : undefined,
  );
  /** A trial that is going on. */
  const on = $derived(workbench.bench?.treatment?.plan.front ? workbench.bench.treatment : undefined);
</script>

<section class="bg-base-200 rounded-box h-fit p-4" aria-labelledby="advice-title">
  <p class="soft">Should I cut?</p>
  <h3 id="advice-title" class="display text-3xl leading-tight">{page.advice.title}</h3>
  <ul class="mt-3 grid gap-2 text-lg">
    {#each page.advice.reasons as reason (reason)}<li>{reason}</li>{/each}
  </ul>
  {#if on}
    <div class="border-primary mt-4 rounded-box border p-3">
      <p class="text-lg">
        On trial now: <strong>{on.plan.words}</strong>.
        {workbench.bench?.found ? 'It was measured.' : 'Strike the drum a few times.'}
      </p>
      <div class="no-print mt-2 flex flex-wrap gap-2">
        <button class="btn btn-primary" onclick={() => (view.place = 'bench')}
          >{workbench.bench?.found ? 'See what it did' : 'To the bench'} <kbd>B</kbd></button
        >
        <button class="btn" onclick={() => void workbench.takeOff(on.id)}>It is back as it was <kbd>O</kbd></button>
      </div>
    </div>
  {:else if closed}
    <div class="no-print mt-4 grid gap-2">
      <button
        class="btn h-auto min-h-[var(--size)] py-1 text-lg {page.advice.verdict === 'not_yet' ? 'btn-primary' : 'btn-outline'}"
        onclick={() => void fronts.try({ state: 'off' })}>Try it with the {which} off</button
      >
      {#if page.trial === 'not_yet'}
        <button class="btn btn-ghost" onclick={() => void fronts.decline(true)}>Leave the trial out</button>
      {:else if page.trial === 'declined'}
        <button class="btn btn-ghost" onclick={() => void fronts.decline(false)}>I will try it after all</button>
      {/if}
    </div>
  {:else}
    <div class="no-print mt-4 grid gap-2">
      <button class="btn text-lg" onclick={() => void fronts.try({ state: 'whole' })}>Try it with a whole {which}</button>
      <button class="btn" onclick={() => void fronts.change({ state: 'whole' }, `Noted: a whole ${which} is on. Measure the drum again.`)}
        >A whole {which} is on for good</button
      >
    </div>
  {/if}
  <fieldset class="no-print border-base-300 mt-4 border-t pt-3">
    <legend class="sr-only">How you play</legend>
    {#if hasPedal(page.drum.kind)}
      <label class="flex items-center gap-3 py-1 text-lg">
        <input
          type="checkbox"
          class="toggle toggle-primary"
          checked={fronts.beater === 'buried'}
          onchange={(event) => fronts.play({ beater: event.currentTarget.checked ? 'buried' : 'off_the_head' })}
        />I leave the beater in the head
      </label>
    {/if}
    <label class="flex items-center gap-3 py-1 text-lg">
      <input
        type="checkbox"
        class="toggle toggle-primary"
        checked={fronts.microphone}
        onchange={(event) => fronts.play({ microphone: event.currentTarget.checked })}
      />A microphone has to get in
    </label>
  </fieldset>
  <dl class="border-base-300 mt-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 border-t pt-3">
    <dt class="soft">Body now</dt>
    <dd>
      {seconds(page.profile.body_t60_s)} at {hertz(page.profile.body_hz)}{#if leftIn}, with the beater left in {seconds(
          leftIn.expected.profile.body_t60_s,
        )}{/if}
    </dd>
    <dt class="soft">Against tonight</dt>
    <dd>{page.assessment.fits ? 'as wanted' : (page.assessment.off[0]?.sentence ?? 'no clear body')}</dd>
  </dl>
  <div class="border-base-300 mt-3 border-t pt-3">
    <h4 class="text-lg">In the song</h4>
    <p>{beatWords(page.in_song.body_beats, page.in_song.bpm)}</p>
    {#if hasPedal(page.drum.kind)}
      <form
        class="no-print mt-1 flex gap-2"
        onsubmit={(event) => {
          event.preventDefault();
          void fronts.against(written);
        }}
      >
        <input
          class="input min-w-0 grow"
          bind:value={written}
          placeholder="A minor, or E1, A1, D2"
          aria-label="The song’s key, or the bass’s lowest notes"
        />
        <button class="btn">Against the bass</button>
      </form>
      {#if fronts.bassRefused}<p class="text-error mt-1" role="alert">{fronts.bassRefused}</p>
      {:else if page.in_song.bass}<p class="mt-1">{page.in_song.bass.sentence}</p>{/if}
    {/if}
  </div>
  <p class="soft mt-3 text-sm">{openingWords(page)}</p>
</section>
