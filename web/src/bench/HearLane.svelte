<script lang="ts">
  import Pencil from '@lucide/svelte/icons/pencil';
  import type { TakeView } from '../api/types';
  import FileDrop from '../listening/FileDrop.svelte';
  import { INSIDE } from '../kit/inside';
  import { hasHeads, isDampedByHand, isUpright, word } from '../kit/kinds.svelte';
  import NoteCard from '../notes/NoteCard.svelte';
  import { workbench } from './workbench.svelte';
  import { view } from '../shell/view.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { counted, hertz, inches, percent, seconds, said } from '../shell/figures';
  import { dialogs } from '../shell/dialogs.svelte';
  import HearAgain from './HearAgain.svelte';
  import AllFigures from './AllFigures.svelte';
  import Dynamics from './Dynamics.svelte';
  import Elsewhere from './Elsewhere.svelte';
  import EmberTrails from './EmberTrails.svelte';
  import Figure from './Figure.svelte';
  import { looking } from './look.svelte';
  import MeasureAgain from './MeasureAgain.svelte';
  import MetalFigures from './MetalFigures.svelte';
  import Ways from './Ways.svelte';
  import Takes from './Takes.svelte';

  const bench = $derived(workbench.bench);
  /** The drum as it is now. */
  const now = $derived(bench?.treatment ? bench.found : bench?.open);

  /** What the ring was that is not heard any more with what is on the drum. */
  const gone = $derived.by(() => {
    const was = bench?.open?.summary.profile;
    if (!bench?.treatment || was?.ring_t60_s == null || now?.summary.profile.ring_t60_s != null) return null;
    return `was ${seconds(was.ring_t60_s)}, at ${hertz(was.ring_hz)}`;
  });

  /** What was measured by an older version of the method. */
  const outdated = $derived([bench?.open, bench?.found].flatMap((take) => (take?.outdated ? [take] : [])));

  /** The same for a median of strikes that scatter: 1.2533 is what a median costs against a mean. */
  function medianDoubt(scatter: number | null | undefined, strikes: number): number | null {
    return scatter == null ? null : (1.645 * 1.2533 * scatter) / Math.sqrt(strikes);
  }

  /** Half the width within which the combined value lies nine times in ten. */
  function doubt(take: TakeView, hz: number | null | undefined): number | null {
    const partial = take.partials.find((each) => each.hz === hz);
    return partial?.t60_sd_s == null ? null : 1.645 * partial.t60_sd_s;
  }
</script>

<section aria-labelledby="hear-title" class="min-w-0">
  <div class="mb-2 flex flex-wrap items-baseline gap-x-3">
    <h2 id="hear-title" class="text-2xl">Hear</h2>
    {#if bench}
      <p class="soft">
        {bench.drum.name}: {word(bench.drum.kind)}, {inches(bench.drum.diameter_in)}{hasHeads(bench.drum.kind)
          ? ` × ${inches(bench.drum.depth_in)}`
          : ''}{bench.drum.inside ? `, ${INSIDE[bench.drum.inside]} inside` : ''}{bench.drum.second_shell && isUpright(bench.drum.kind)
          ? ', second shell'
          : ''}
      </p>
      <button class="btn btn-ghost btn-sm no-print" onclick={() => dialogs.show('drum')} aria-label="Edit the drum">
        <Pencil class="size-4" aria-hidden="true" /><kbd class="hidden sm:inline">E</kbd>
      </button>
    {/if}
  </div>
  {#if bench}
    {#each outdated as take (take.id)}
      <div class="border-warning no-print mb-3 border-l-4 pl-3">
        <p>{take === bench.open ? 'The open drum' : 'The drum as it is now'} was measured by an older version of the method.</p>
        <MeasureAgain takeId={take.id} outdated />
      </div>
    {/each}
    <Ways {bench} />
    {#if now?.metal}<MetalFigures metal={now.metal} />{/if}
    {#if now}
      {@const profile = now.summary.profile}
      {#if !now.metal}<dl class="mb-3 grid grid-cols-3 gap-2">
          <Figure
            name="Body"
            value={seconds(profile.body_t60_s)}
            doubt={doubt(now, profile.body_hz)}
            note={`falls 60 dB, at ${hertz(profile.body_hz)}`}
          />
          <Figure
            name="Ring"
            value={gone == null ? seconds(profile.ring_t60_s) : said('gone')}
            doubt={doubt(now, profile.ring_hz)}
            note={gone ?? `falls 60 dB, at ${hertz(profile.ring_hz)}`}
          />
          <Figure
            name="Overtones"
            value={percent(profile.ring_share)}
            doubt={medianDoubt(now.summary.spread.ring_share, now.summary.strikes_used)}
            as="percent"
            note="of what sounds on"
          />
        </dl>{/if}
      <p class="soft mb-3">
        {bench.treatment ? 'With what is on it now' : 'Nothing on it'}: {counted(now.summary.strikes_used, 'strike', 'strikes')}{now.summary
          .strikes_rejected > 0
          ? `, ${now.summary.strikes_rejected} left out`
          : ''}{now.source === 'simulated' ? ', simulated drum' : ''}. The ± holds nine times in ten.
        <button class="btn btn-sm btn-ghost no-print" onclick={() => void looking.openBench()}>Look closer <kbd>C</kbd></button>
      </p>
      {#if bench.turned_since}
        <p class="border-warning mb-3 border-l-4 pl-3 text-lg">
          It was tuned since it was heard like this. Hit it again: until then this is the drum before.
        </p>
      {/if}
      <Elsewhere take={now} />
      {#each now.noted as sentence (sentence)}<p class="border-info mb-3 border-l-4 pl-3">{sentence}</p>{/each}
    {/if}
    {#if bench.wash_note}<p class="border-info mb-3 border-l-4 pl-3">{bench.wash_note}</p>{/if}
    {#if bench.split_note}
      <p class="mb-3 flex flex-wrap items-center gap-x-3 gap-y-1">
        <span class="min-w-60 grow">{bench.split_note}</span>
        <button class="btn btn-sm btn-outline no-print" onclick={() => (view.place = 'tune')}>Even it in Tune <kbd>K</kbd></button>
      </p>
    {/if}
    {#if bench.open ?? bench.found}
      <EmberTrails {bench} plan={workbench.plan} />
      {#if now}<Dynamics take={now} />{/if}
      <div class="mt-3"><AllFigures {bench} /></div>
    {:else}
      <div
        class="rounded-box flex min-h-56 flex-col items-center justify-center gap-2 p-6 text-center"
        style="background: var(--bed); color: var(--bed-text)"
      >
        <svg width="180" height="64" viewBox="0 0 180 64" aria-hidden="true">
          {#each [180, 120, 70] as length, i (length)}
            <rect y={8 + 20 * i} width={length} height="10" rx="2" fill="none" stroke="var(--bed-line)" stroke-dasharray="5 4" />
          {/each}
        </svg>
        <p class="text-lg">Not heard yet. Each partial of the drum will glow here for as long as it sounds.</p>
      </div>
    {/if}
    {#if isDampedByHand(bench.drum.kind)}<NoteCard />{/if}
    <FileDrop />
    <HearAgain />
    <Takes {bench} />
  {:else if drumKit.drumId !== undefined}
    <div class="bg-base-200 h-24 rounded-box"></div>
    <div class="rounded-box mt-3 h-72" style="background: var(--bed)"></div>
  {/if}
</section>
