<script lang="ts">
  // A take that may not be what it says it is: counted only where the player says so.
  import type { Bench } from '../api/types';
  import { listening } from '../listening/listen.svelte';
  import { workbench } from './workbench.svelte';

  let { drumId, doubt }: { drumId: number; doubt: NonNullable<Bench['in_doubt']> } = $props();
</script>

<div class="border-warning mt-3 border-l-4 pl-3" role="alert">
  <p class="text-lg font-semibold">{doubt.sentence} Count it?</p>
  <p class="soft">Until you say so, nothing is learned from this take.</p>
  <div class="no-print mt-2 flex flex-wrap gap-2">
    <button class="btn btn-secondary" onclick={() => listening.begin(drumId, listening.hearing)}>Strike again</button>
    <button class="btn" onclick={() => void workbench.countTake(doubt.take_id, true)}>Count it</button>
  </div>
</div>
