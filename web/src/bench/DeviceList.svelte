<script lang="ts">
  import type { PlacedDevice } from '../api/types';

  let { devices }: { devices: PlacedDevice[] } = $props();
</script>

<ul class="grid gap-1">
  {#each devices as device, i (i)}
    <li class="leading-snug">
      <span class="font-semibold first-letter:uppercase">{device.name}</span>, {device.amount}:
      <span>{device.place}</span>
    </li>
  {/each}
</ul>
