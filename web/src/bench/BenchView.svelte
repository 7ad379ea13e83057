<script lang="ts">
  import Beginning from '../beginning/Beginning.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { view } from '../shell/view.svelte';
  import DoLane from './DoLane.svelte';
  import HearLane from './HearLane.svelte';
  import NextStep from './NextStep.svelte';
  import WantLane from './WantLane.svelte';
</script>

{#if drumKit.kit && (drumKit.kit.drums.length === 0 || view.beginning)}
  <Beginning />
{:else}
  <NextStep />
  <div class="grid gap-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,3fr)_minmax(0,4fr)] print:block">
    <HearLane />
    <WantLane />
    <DoLane />
  </div>
{/if}
