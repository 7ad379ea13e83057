<script lang="ts">
  // Hits of a take that were on another drum: kept there if the player says so.
  import { api } from '../api/client';
  import type { Elsewhere, TakeView } from '../api/types';
  import { workbench } from './workbench.svelte';

  let { take }: { take: TakeView } = $props();

  let found = $state.raw<Elsewhere[]>([]);

  $effect(() => {
    const { id } = take;
    let shown = true;
    void api.elsewhere(id).then(
      (others) => {
        if (shown) found = others;
      },
      // It is asked again whenever the take is shown; nothing hangs on it.
      () => {
        if (shown) found = [];
      },
    );
    // An answer that comes late is about another take.
    return () => (shown = false);
  });
</script>

{#each found as other (other.drum_id)}
  <div class="border-warning no-print mb-3 flex flex-wrap items-center gap-x-3 gap-y-1 border-l-4 pl-3">
    <p class="grow">
      {#if other.strikes.length === take.strikes.length}All of it sounds like your {other.name}. Keep it there?
      {:else if other.strikes.length === 1}One hit of this take sounds like your {other.name}. Keep it there?
      {:else}{other.strikes.length} hits of this take sound like your {other.name}. Keep them there?{/if}
    </p>
    <button class="btn btn-sm" onclick={() => void workbench.keepElsewhere(take, other)}>Keep on the {other.name}</button>
  </div>
{/each}
