<script lang="ts">
  // A drum from above, its size to scale within the kit: how much of the head glows says how far it is off.
  import type { DrumState } from '../api/types';

  let { state, largest, small = false }: { state: DrumState; largest: number; small?: boolean } = $props();

  const MOST_STEPS = 60;
  const radius = $derived(8 + 14 * (state.drum.diameter_in / largest));
  const glow = $derived(state.standing === 'off' ? Math.min(1, 0.3 + (0.7 * (state.assessment?.misfit ?? MOST_STEPS)) / MOST_STEPS) : 0);
</script>

<svg viewBox="-24 -24 48 48" class="{small ? 'size-9' : 'size-12'} shrink-0" aria-hidden="true">
  <circle
    r={radius}
    fill="var(--bed)"
    stroke={state.standing === 'off' ? 'var(--ember-3)' : 'var(--soft)'}
    stroke-width="2"
    stroke-dasharray={state.standing === 'unmeasured' || state.standing === 'in_case' ? '3 4' : undefined}
    opacity={state.standing === 'in_case' ? 0.5 : 1}
  />
  {#if state.standing === 'off'}
    <circle r={radius * 0.82 * Math.sqrt(glow)} fill="var(--ember-4)" />
    <circle r={radius * 0.5 * Math.sqrt(glow)} fill="var(--ember-2)" />
    <circle r={radius * 0.22 * Math.sqrt(glow)} fill="var(--ember-0)" />
  {:else if state.standing === 'fits' || state.standing === 'nearly'}
    {@const stroke = state.standing === 'fits' ? 'var(--chalk)' : 'var(--soft)'}
    <path d="M-6 0.5 L-1.5 5 L6.5 -5" fill="none" {stroke} stroke-width="3" stroke-linecap="round" stroke-linejoin="round" />
  {:else if state.standing === 'left_alone'}
    <path d="M-6 0 H6" stroke="var(--soft)" stroke-width="3" stroke-linecap="round" />
  {:else if state.standing !== 'in_case'}
    <text y="5" text-anchor="middle" font-size="15" font-weight="700" fill="var(--bed-text)">?</text>
  {/if}
</svg>
