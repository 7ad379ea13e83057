<script lang="ts">
  import { LANGUAGE } from '../shell/language';
  import { hasHeads, isDampedByHand, isMetal, otherHead } from '../kit/kinds.svelte';
  import { shelfIsMet } from '../beginning/beginning.svelte';
  import ShelfSets from '../beginning/ShelfSets.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { workbench } from './workbench.svelte';
  import { deviceShelf } from '../shelf/deviceShelf.svelte';
  import { playedTonight } from '../tonight/playedTonight.svelte';
  import { view } from '../shell/view.svelte';
  import LayoutEditor from '../layout/LayoutEditor.svelte';
  import { layout } from '../layout/layout.svelte';
  import Done from './Done.svelte';
  import PlanCard from './PlanCard.svelte';
  import UsedBefore from './UsedBefore.svelte';
  import WhyNot from './WhyNot.svelte';

  const LIMITS = [
    { limit: 'clear_surface', words: 'Keep the surface clear' },
    { limit: 'nothing_inside', words: 'Nothing inside' },
    { limit: 'nothing_on_batter', words: 'Nothing at all on the batter head' },
    { limit: 'no_tools', words: 'No tools, as on a stage' },
    { limit: 'keeps_feel', words: 'Stick and beater come back as before' },
    { limit: 'stays_on', words: 'Stays on when played hard' },
    { limit: 'survives_transport', words: 'Survives transport' },
    { limit: 'no_residue', words: 'No residue' },
    { limit: 'nothing_unsightly', words: 'Nothing unsightly' },
    { limit: 'within_a_minute', words: 'Each thing on within a minute' },
    { limit: 'one_thing', words: 'One thing a drum' },
    { limit: 'nothing_bought', words: 'Nothing to buy' },
  ] as const;
  const FEW_LIMITS = 2;
  let showLimits = $state(false);
  const tonight = $derived(drumKit.kit?.tonight);
  const ruledOut = $derived(drumKit.kit?.ruled_out);
  // What is ruled out is never hidden.
  const moreLimits = $derived(showLimits || LIMITS.slice(FEW_LIMITS).some(({ limit }) => ruledOut?.[limit]));
  const bench = $derived(workbench.bench);
  const plans = $derived(workbench.plans);
  // A layout belongs to the drum it was begun on.
  $effect(() => {
    if (layout.open && !layout.active) layout.close();
  });
  /** What is left where nothing can be put on. */
  const otherwise = (begin: string) =>
    `${begin} ${!bench || hasHeads(bench.drum.kind) ? 'tuning, or another head' : isMetal(bench.drum.kind) ? 'a lighter stick, or another cymbal' : 'something else than muffling'}`;
  /** Before it was said what is to hand, it cannot be said that nothing helps. */
  const unasked = $derived(plans?.reach !== 'nothing_needed' && !shelfIsMet(deviceShelf.devices));
  const reach = $derived.by(() => {
    if (unasked) return 'Plans are made of what you own. What have you got?';
    switch (plans?.reach) {
      case 'nothing_needed':
        return 'Nothing needed: leave it open.';
      case 'nothing_to_use':
        return 'Your shelf has nothing that may be used on this drum.';
      case 'nothing_helps':
        return plans?.would_do
          ? 'Nothing on your shelf helps here: anything takes it further away.'
          : `Nothing to put on: any device takes it further away. ${otherwise('Try')}.`;
      case 'not_reached':
        return plans?.would_do
          ? 'Your shelf does not get all the way there. These come nearest:'
          : `Nothing that can be put on gets all the way there: ${otherwise('that takes')}. These come nearest:`;
      case 'reached':
        return plans && plans.plans.length > 1 ? 'These get there, each in its own way:' : 'This gets there:';
      default:
        return '';
    }
  });
</script>

<section aria-labelledby="do-title" class="min-w-0">
  <div class="mb-2 flex items-baseline gap-3">
    <h2 id="do-title" class="text-2xl">Do</h2>
    {#if plans?.cut_short}<p class="text-warning">Searching took too long and was ended: something better may be on your shelf.</p>{/if}
    {#if plans && plans.searched > 0}<p class="soft">{plans.searched.toLocaleString(LANGUAGE)} ways tried out</p>{/if}
  </div>
  {#if tonight && ruledOut}
    <fieldset class="no-print mb-3 flex flex-wrap gap-x-5 gap-y-1">
      <legend class="sr-only">Ruled out</legend>
      {#each LIMITS.slice(0, moreLimits ? LIMITS.length : FEW_LIMITS) as { limit, words } (limit)}
        <label class="flex items-center gap-2 py-1">
          <input
            type="checkbox"
            class="toggle toggle-primary"
            checked={ruledOut[limit]}
            disabled={ruledOut[limit] && !tonight[limit]}
            onchange={(event) => void playedTonight.set({ [limit]: event.currentTarget.checked })}
          />{words}
        </label>
      {/each}
      {#if !moreLimits}<button class="btn btn-sm btn-ghost" onclick={() => (showLimits = true)}>More limits</button>{/if}
    </fieldset>
    {#if drumKit.kit?.kit?.borrowed}<p class="soft mb-3">
        {drumKit.kit.kit.name} is not yours: nothing is opened, cut or left sticky. One thing a drum, on within a minute.
      </p>{/if}
  {/if}
  {#if layout.active && bench?.open}<LayoutEditor drum={bench.drum} open={bench.open} />{/if}
  {#if bench?.open && !layout.active}
    <div class="no-print mb-3 flex flex-wrap gap-2">
      <button class="btn btn-sm" onclick={() => layout.begin()}>Lay it out yourself <kbd>Y</kbd></button>
      {#if hasHeads(bench.drum.kind)}<button class="btn btn-sm" onclick={() => (view.place = 'front')}
          >{bench.drum.kind === 'kick'
            ? 'Front head: should I cut?'
            : isDampedByHand(bench.drum.kind)
              ? 'How to strike it'
              : `${otherHead(bench.drum.kind)}: hole, mesh or off?`}
          <kbd>X</kbd></button
        >{/if}
    </div>
  {/if}
  {#if bench?.treatment}<Done {bench} treatment={bench.treatment} />{/if}
  {#if !bench}
    <div class="bg-base-200 h-72 rounded-box"></div>
  {:else if !bench.open}
    <p class="text-lg">Plans appear here once the open drum was heard.</p>
  {:else if workbench.plansRefused}
    <p class="text-lg" role="alert">{workbench.plansRefused}</p>
  {:else if plans}
    <div class={workbench.planning ? 'opacity-60' : ''} aria-busy={workbench.planning}>
      {#if plans.first}<p class="border-warning mb-3 border-l-4 pl-3 text-lg">{plans.first}</p>{/if}
      {#if bench.treatment}
        <details class="no-print">
          <summary class="soft text-lg">{plans.plans.length > 0 ? 'Other plans from the open drum' : reach}</summary>
          <div class="mt-3 grid grid-cols-1 gap-3">
            {#each plans.plans as plan, index (index)}<PlanCard
                {plan}
                {index}
                drum={bench.drum}
                open={bench.open}
                choosable={false}
              />{/each}
          </div>
        </details>
      {:else}
        <p class="mb-2 text-lg">{reach}</p>
        {#if unasked}<div class="no-print mb-3 flex flex-wrap gap-2"><ShelfSets /></div>{/if}
        <div class="grid grid-cols-1 gap-3">
          {#each plans.plans as plan, index (index)}
            <PlanCard {plan} {index} drum={bench.drum} open={bench.open} choosable={plans.plans.length > 1} />
          {/each}
        </div>
        {#if plans.would_do}
          <div class="mt-3">
            <PlanCard
              plan={plans.would_do.plan}
              missing={plans.would_do.missing}
              index={-1}
              drum={bench.drum}
              open={bench.open}
              choosable={false}
            />
          </div>
        {/if}
        {#if plans.plans.length > 0}<WhyNot drum={bench.drum.id} {plans} />{/if}
        {#if plans.reach === 'nothing_to_use'}
          <button class="btn no-print" onclick={() => (view.place = 'shelf')}>Open the shelf <kbd>S</kbd></button>
        {/if}
      {/if}
    </div>
  {:else if workbench.planning}
    <p class="soft text-lg">Looking through the shelf …</p>
    <div class="bg-base-200 mt-2 h-72 rounded-box"></div>
  {/if}
  {#if bench?.open}<UsedBefore {bench} />{/if}
</section>
