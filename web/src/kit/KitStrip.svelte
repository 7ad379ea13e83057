<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import { drumKit } from './drumKit.svelte';
  import { view } from '../shell/view.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { unbroken } from '../shell/figures';
  import { dialogs } from '../shell/dialogs.svelte';
  import DrumBadge from './DrumBadge.svelte';
  import { kits } from './kits.svelte';
  import { STANDINGS } from './standing';

  let strip: HTMLElement;
  $effect(() => {
    // On a narrow screen the strip is longer than what shows.
    if (drumKit.drumId !== undefined && drumKit.kit)
      strip.querySelector('[aria-current=true]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  });

  const drums = $derived(drumKit.kit?.drums ?? []);
  /** The pieces of a large kit are drawn smaller, in as many rows as they need: names are never cut. */
  const MANY = 6;
  const many = $derived(drums.length > MANY || drums.some((state) => state.group));
  const kit = $derived(drumKit.kit?.kit);
  const house = $derived(drumKit.kit?.house_kit);
  /** Keys of the first twenty: 1 to 9 and 0, then the same with Shift. */
  const keyOf = (index: number) => (index < 20 ? `${index >= 10 ? '⇧' : ''}${(index + 1) % 10}` : '');
  const largest = $derived(Math.max(...drums.map((state) => state.drum.diameter_in), 1));
</script>

{#if house}
  <p class="no-print border-info mx-3 mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 border-l-4 pl-3 sm:mx-5">
    <span class="text-lg">The {drumKit.kit?.venue} has a kit of its own: <bdi>{house.name}</bdi>.</span>
    <button class="btn btn-sm" onclick={() => void kits.play(house)}>Play on it tonight</button>
  </p>
{/if}
<nav
  bind:this={strip}
  class="no-print flex gap-2 overflow-x-auto px-3 py-2 sm:px-5 {many ? 'sm:grid sm:grid-cols-[repeat(auto-fill,minmax(8.5rem,1fr))]' : ''}"
  aria-label="Kit, in playing order"
>
  {#if drumKit.kit}
    <div class="border-base-300 flex min-w-20 shrink-0 flex-col rounded-box border {many ? 'max-sm:max-w-32' : 'max-w-32'}">
      <button
        class="btn btn-ghost h-auto min-h-0 grow flex-col items-start gap-0 px-3 py-1 text-left font-normal"
        onclick={() => dialogs.show('kits')}
        aria-label="Kit: {kit?.name ?? 'all drums'}. Choose or change kits"
      >
        <span class="soft text-sm">Kit <kbd class="hidden sm:inline">Q</kbd></span>
        <bdi class="line-clamp-2 leading-tight break-words">{kit?.name ?? 'All drums'}</bdi>
      </button>
      <button class="btn btn-ghost btn-sm" onclick={() => dialogs.show('new-drum')} aria-label="Add a drum">
        <Plus class="size-5" aria-hidden="true" />
      </button>
    </div>
  {/if}
  {#each drums as state, index (state.drum.id)}
    {@const chosen = state.drum.id === drumKit.drumId}
    {#if state.group}
      <span class="soft flex w-20 shrink-0 items-end text-sm leading-tight break-words sm:col-span-full sm:w-auto">{state.group}</span>
    {/if}
    <button
      class="flex flex-1 items-center rounded-box border py-2 text-left {many ? 'min-w-34 gap-2 px-2' : 'min-w-44 gap-3 px-3'}
        {state.standing === 'in_case' ? 'border-dashed' : ''}
        {chosen ? 'bg-base-200 border-primary' : 'border-base-300 hover:border-neutral'}"
      aria-current={chosen ? 'true' : undefined}
      aria-label="{state.drum.name}: {STANDINGS[state.standing]}. {state.headline}. {state.treatment ? `On it: ${state.treatment}.` : ''}"
      onclick={() => {
        view.atDrum();
        void workbench.choose(state.drum.id);
      }}
    >
      <span class="flex shrink-0 flex-col items-center gap-1">
        <DrumBadge {state} {largest} small={many} />
        {#if many && keyOf(index)}<kbd class="hidden sm:inline">{keyOf(index)}</kbd>{/if}
      </span>
      <span class="min-w-0 grow">
        <span class="flex items-baseline gap-2">
          <span class="display line-clamp-2 leading-tight break-words {many ? '' : 'text-lg'}">{state.drum.name}</span>
          {#if !many && keyOf(index)}<kbd class="ml-auto hidden sm:inline">{keyOf(index)}</kbd>{/if}
        </span>
        <span class="soft text-sm leading-tight {many ? 'line-clamp-3 text-xs' : 'line-clamp-2'}">{unbroken(state.headline)}</span>
        {#if state.treatment}<span class="block truncate {many ? 'text-xs' : 'text-sm'}">On it: {state.treatment}</span>{/if}
      </span>
    </button>
  {/each}
  {#if !drumKit.kit}
    <div class="bg-base-200 h-16 grow rounded-box"></div>
  {/if}
</nav>
