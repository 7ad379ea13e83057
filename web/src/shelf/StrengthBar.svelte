<script lang="ts">
  import { said } from '../shell/figures';
  // How strong a device is against the usual, with its doubt: a quarter to four times, the usual in the middle.
  import { scaleLog } from 'd3-scale';
  import type { DeviceStrength } from '../api/types';

  let { strength }: { strength: DeviceStrength } = $props();

  const WIDTH = 220;
  const x = scaleLog().domain([0.25, 4]).range([0, WIDTH]).clamp(true);
  const MARKS = [0.5, 1, 2];
</script>

<svg viewBox="0 0 {WIDTH} 34" class="block h-auto w-full max-w-64" aria-hidden="true">
  <line x1="0" x2={WIDTH} y1="10" y2="10" stroke="var(--soft)" stroke-opacity="0.5" />
  {#each MARKS as mark (mark)}
    <line x1={x(mark)} x2={x(mark)} y1="4" y2="16" stroke="var(--soft)" />
    <text x={x(mark)} y="31" text-anchor="middle" font-size="13" fill="currentColor">{mark === 1 ? said('usual') : `× ${mark}`}</text>
  {/each}
  <rect
    x={x(strength.low)}
    width={Math.max(2, x(strength.high) - x(strength.low))}
    y="7"
    height="6"
    rx="3"
    fill="var(--ember-3)"
    opacity={strength.tests > 0 ? 1 : 0.35}
  />
  <circle cx={x(strength.times)} cy="10" r="6" fill={strength.tests > 0 ? 'var(--color-primary)' : 'var(--soft)'} />
</svg>
