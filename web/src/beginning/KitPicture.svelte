<script lang="ts">
  // A usual kit from above: to the same scale as the others, `kits`, drums filled, cymbals as thin rings.
  import type { Drum } from '../api/types';
  import { isMetal } from '../kit/kinds.svelte';

  let { drums, kits }: { drums: Drum[]; kits: Drum[][] } = $props();

  const GAP_IN = 1.5;
  const MARGIN_IN = 1;
  const widthOf = (kit: Drum[]) => kit.reduce((width, drum) => width + drum.diameter_in + GAP_IN, 0);
  const placed = $derived(drums.map((drum, i) => ({ drum, x: widthOf(drums.slice(0, i)) + drum.diameter_in / 2 })));
  const width = $derived(Math.max(1, ...kits.map(widthOf)));
  const height = $derived(Math.max(1, ...kits.flat().map((drum) => drum.diameter_in)));
</script>

<svg viewBox="{-MARGIN_IN} {-MARGIN_IN} {width + 2 * MARGIN_IN} {height + 2 * MARGIN_IN}" class="w-full" aria-hidden="true">
  {#each placed as { drum, x } (drum.name)}
    <circle
      cx={x}
      cy={height - drum.diameter_in / 2}
      r={drum.diameter_in / 2}
      fill={isMetal(drum.kind) ? 'none' : 'var(--bed)'}
      stroke={isMetal(drum.kind) ? 'var(--ember-2)' : 'var(--soft)'}
      stroke-width="0.5"
    />
  {/each}
</svg>
