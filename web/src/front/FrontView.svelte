<script lang="ts">
  // The drum's other end: whether to cut a hole, what each way of closing it would do, what can be laid in instead, and where to cut.
  import { drumKit } from '../kit/drumKit.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { view } from '../shell/view.svelte';
  import Advice from './Advice.svelte';
  import CutHole from './CutHole.svelte';
  import FillDials from './FillDials.svelte';
  import { fronts, type Part } from './front.svelte';

  import { hasHeads, hasPedal, isDampedByHand, isUpright, otherHead } from '../kit/kinds.svelte';
  import Beaters from './Beaters.svelte';
  import Tunings from './Tunings.svelte';
  import Ways from './Ways.svelte';

  const PARTS: { part: Part; name: string }[] = [
    { part: 'beater', name: 'How to strike it' },
    { part: 'ways', name: 'Ways to close it' },
    { part: 'fill', name: 'Fill instead' },
    { part: 'tune', name: 'Tune instead' },
    { part: 'cut', name: 'Where, and cutting' },
  ];

  // Whatever changes on the bench changes what is expected here.
  $effect(() => {
    void drumKit.drumId;
    void workbench.bench;
    void fronts.load();
  });

  const page = $derived(fronts.page);
  // What there is nothing to say about has no tab.
  const lists = $derived<Partial<Record<Part, number>>>({ fill: page?.dials.length ?? 0, tune: page?.tunings.length ?? 0 });
  const parts = $derived(
    PARTS.filter(({ part }) => (part === 'beater' ? page && (hasPedal(page.drum.kind) || isUpright(page.drum.kind)) : lists[part] !== 0)),
  );
  const drum = $derived(drumKit.drum?.drum);
  // What is struck and damped by hand is asked about how it is struck, hardly ever about holes.
  const first = $derived<Part>(drum && isDampedByHand(drum.kind) ? 'beater' : 'ways');
  const part = $derived(parts.find((each) => each.part === fronts.part)?.part ?? first);
</script>

<div class="mt-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
  <h2 class="text-3xl">
    {#if !drum}Front head{:else if hasHeads(drum.kind)}{otherHead(drum.kind)} of the {drum.name}{:else}{drum.name}{/if}
  </h2>
  {#if page && drum}<p class="soft text-lg">{drum.diameter_in} × {drum.depth_in} in, {page.words}</p>{/if}
  <button class="btn btn-sm no-print ml-auto" onclick={() => (view.place = 'bench')}>Back to the bench <kbd>B</kbd></button>
</div>

{#if !drum}
  <p class="mt-6 text-lg">Add a drum on the bench first.</p>
{:else if fronts.refused}
  <p class="mt-6 text-xl" role="alert">{fronts.refused}</p>
  <button class="btn btn-primary mt-3" onclick={() => (view.place = 'bench')}>To the bench <kbd>B</kbd></button>
{:else if !page}
  <div class="bg-base-200 mt-4 h-40 rounded-box" aria-busy="true"></div>
  <div class="bg-base-200 mt-4 h-72 rounded-box"></div>
{:else}
  {@const struck = part === 'beater' && isDampedByHand(page.drum.kind)}
  <div class="mt-3 grid gap-4 {struck ? '' : 'lg:grid-cols-[minmax(0,4fr)_minmax(0,8fr)]'} print:block" aria-busy={fronts.loading}>
    {#if !struck}<Advice {page} />{/if}
    <div class="min-w-0">
      <div role="tablist" class="no-print mb-3 flex flex-wrap gap-1">
        {#each parts as { part: each, name } (each)}
          <button
            role="tab"
            aria-selected={part === each}
            class="btn btn-ghost rounded-none border-0 border-b-2 px-3 text-lg {part === each ? 'border-primary' : 'border-transparent'}"
            onclick={() => (fronts.part = each)}>{name}</button
          >
        {/each}
      </div>
      {#if part === 'ways'}<Ways {page} />{:else if part === 'fill'}<FillDials {page} />{:else if part === 'tune'}<Tunings
          {page}
        />{:else if part === 'beater'}<Beaters />{:else}<CutHole {page} />{/if}
    </div>
  </div>
{/if}
