<script lang="ts">
  import Beginning from '../beginning/Beginning.svelte';
  import { app } from '../shell/app.svelte';
  import DoLane from './DoLane.svelte';
  import HearLane from './HearLane.svelte';
  import NextStep from './NextStep.svelte';
  import WantLane from './WantLane.svelte';
</script>

{#if app.kit && (app.kit.drums.length === 0 || app.beginning)}
  <Beginning />
{:else}
  <NextStep />
  <div class="grid gap-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,3fr)_minmax(0,4fr)] print:block">
    <HearLane />
    <WantLane />
    <DoLane />
  </div>
{/if}
