<script lang="ts">
  // The other head tuned otherwise: what that does to the body, undone by the same turns back.
  import Headphones from '@lucide/svelte/icons/headphones';
  import type { FrontPage } from '../api/types';
  import { hearing } from '../audition/audition.svelte';
  import { otherHead } from '../kit/kinds.svelte';
  import { view } from '../shell/view.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { hertz, seconds, fixed, within } from '../shell/figures';
  import { tune } from '../tune/tune.svelte';
  import FoldRow from './FoldRow.svelte';
  import LaidIn from './LaidIn.svelte';
  import Levels from './Levels.svelte';
  import { pitch } from './say';

  let { page }: { page: FrontPage } = $props();

  const which = $derived(within(otherHead(page.drum.kind)));
  const longest = $derived(
    Math.max(
      page.profile.body_t60_s ?? 0.2,
      ...page.tunings.map((way) => way.expected.body_t60_s?.high ?? way.expected.profile.body_t60_s ?? 0),
    ),
  );
  let chosen = $state<number>();

  function toTune() {
    tune.part = 'head';
    tune.side = 'lower';
    view.place = 'tune';
  }
</script>

<p class="soft mb-2">
  Tuned otherwise, the {which} moves the body’s pitch, and hardly its length, where both heads lose alike. As the drum is now: {hertz(
    page.profile.body_hz,
  )}, {seconds(page.profile.body_t60_s)}. Bounds hold nine times in ten.
</p>
<LaidIn {page} />
<ul class="grid gap-1">
  {#each page.tunings as way (way.semitones)}
    <FoldRow
      expected={way.expected}
      most={longest}
      open={chosen === way.semitones}
      toggle={() => (chosen = chosen === way.semitones ? undefined : way.semitones)}
    >
      {#snippet name()}{which}, {way.words}{/snippet}
      {#snippet figure()}<span class="display text-xl">{hertz(way.expected.profile.body_hz)}</span>
        <span class="soft block text-sm"
          >{seconds(way.expected.profile.body_t60_s)}
          {#if way.assessment.fits}<span class="text-success">· fits tonight</span>{/if}</span
        >{/snippet}
      {#snippet more()}
        <p>
          Body {seconds(way.expected.profile.body_t60_s)}
          {#if way.expected.body_t60_s}({seconds(way.expected.body_t60_s.low)} to {seconds(way.expected.body_t60_s.high)}){/if}
          at {pitch(way)}; ring {seconds(way.expected.profile.ring_t60_s)} at {hertz(way.expected.profile.ring_hz)}.
        </p>
        <Levels levels={way.levels} kind={page.drum.kind} />
        {#if !way.assessment.fits && way.assessment.off[0]}<p>Against tonight: {way.assessment.off[0].sentence}</p>{/if}
        <ol class="list-decimal pl-5">
          <li>
            Note the pitch at each of its lugs. Each is to come to {fixed(2 ** (way.semitones / 12), 2)} times that.
          </li>
          <li>
            {drumKit.hasOneBolt(page.drum.id)
              ? 'Turn the bolt by half turns, and tap in between.'
              : 'Turn crosswise, all rods alike, an eighth at a time, and tap in between.'}
            {way.semitones > 0
              ? 'Stop when the key gets hard: a head or rod that is turned too far tears out.'
              : 'Stop before a rod hangs loose: it would rattle, and fall out in transport.'}
          </li>
          <li>Listen to the open drum again. The same turns back undo it.</li>
        </ol>
        <div class="no-print mt-1 flex flex-wrap gap-2">
          <button
            class="btn"
            disabled={hearing.loading}
            onclick={() =>
              void hearing.open({
                placements: page.laid?.placements ?? [],
                tuned: way.semitones,
                expected: way.expected,
                title: `${which}, ${way.words}`,
              })}><Headphones class="size-5" aria-hidden="true" />Hear it first</button
          >
          <button class="btn" onclick={toTune}>To its lugs in Tune <kbd>K</kbd></button>
        </div>
      {/snippet}
    </FoldRow>
  {/each}
</ul>
