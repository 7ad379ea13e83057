<script lang="ts">
  // How devices are put on, or taken off: a numbered list for each kind.
  import type { PlacedDevice } from '../api/types';

  let { devices, off = false }: { devices: PlacedDevice[]; off?: boolean } = $props();

  const kinds = $derived([...new Map(devices.map((device) => [device.name, device])).values()]);
</script>

{#each kinds as device (device.name)}
  <h4 class="mt-2 font-semibold first-letter:uppercase">{device.name}</h4>
  <ol class="list-decimal pl-5">
    {#each off ? device.steps_off : device.steps as step (step)}<li>{step}</li>{/each}
  </ol>
  {#if !off}<p class="soft">{device.cost}</p>{/if}
{/each}
