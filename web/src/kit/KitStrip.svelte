<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import { app } from '../shell/app.svelte';
  import { dialogs } from '../shell/keys';
  import DrumBadge from './DrumBadge.svelte';
  import { STANDINGS } from './standing';

  let strip: HTMLElement;
  $effect(() => {
    // On a narrow screen the strip is longer than what shows.
    if (app.drumId !== undefined && app.kit)
      strip.querySelector('[aria-current=true]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  });

  const drums = $derived(app.kit?.drums ?? []);
  const largest = $derived(Math.max(...drums.map((state) => state.drum.diameter_in), 1));
</script>

<nav bind:this={strip} class="no-print flex gap-2 overflow-x-auto px-3 py-2 sm:px-5" aria-label="Kit, in playing order">
  {#each drums as state, index (state.drum.id)}
    {@const chosen = state.drum.id === app.drumId}
    <button
      class="flex min-w-44 flex-1 items-center gap-3 rounded-box border px-3 py-2 text-left
        {chosen ? 'bg-base-200 border-primary' : 'border-base-300 hover:border-neutral'}"
      aria-current={chosen ? 'true' : undefined}
      aria-label="{state.drum.name}: {STANDINGS[state.standing]}. {state.headline}. {state.treatment ? `On it: ${state.treatment}.` : ''}"
      onclick={() => {
        app.atDrum();
        void app.choose(state.drum.id);
      }}
    >
      <DrumBadge {state} {largest} />
      <span class="min-w-0 grow">
        <span class="flex items-baseline gap-2">
          <span class="display line-clamp-2 text-lg leading-tight break-words">{state.drum.name}</span>
          {#if index < 9}<kbd class="ml-auto hidden sm:inline">{index + 1}</kbd>{/if}
        </span>
        <span class="soft line-clamp-2 text-sm leading-tight">{state.headline}</span>
        {#if state.treatment}<span class="block truncate text-sm">On it: {state.treatment}</span>{/if}
      </span>
    </button>
  {/each}
  {#if drums.length > 0}
    <button
      class="btn btn-ghost btn-square border-base-300 h-auto min-h-14 w-14 shrink-0"
      onclick={() => dialogs.addDrum()}
      aria-label="Add a drum"
    >
      <Plus class="size-6" aria-hidden="true" />
    </button>
  {:else if !app.kit}
    <div class="bg-base-200 h-16 grow rounded-box"></div>
  {/if}
</nav>
