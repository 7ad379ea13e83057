<script lang="ts">
  // One decay time as a glowing bar, with its doubt as a thin line, and what was found as a chalk mark.
  import type { Range } from '../api/types';
  import { seconds } from '../shell/figures';

  interface Props {
    /** The time at the right end, s. */
    most: number;
    value: number | null | undefined;
    range: Range | null | undefined;
    found?: number | null;
  }
  let { most, value, range, found }: Props = $props();

  const unique = $props.id();
  const at = (time: number) => 100 * Math.min(1, time / most);
  const words = $derived(
    `Body ${seconds(value)}${range ? `, between ${seconds(range.low)} and ${seconds(range.high)}` : ''}${found == null ? '' : `, found ${seconds(found)}`}`,
  );
</script>

<svg class="block h-6 w-full rounded" viewBox="0 0 100 24" preserveAspectRatio="none" role="img" aria-label={words}>
  <rect width="100" height="24" fill="var(--bed)" />
  {#if value != null}
    <linearGradient id="{unique}-glow" x1="0" x2="1"
      ><stop offset="0" stop-color="var(--ember-1)" /><stop offset="0.55" stop-color="var(--ember-3)" /><stop
        offset="1"
        stop-color="var(--ember-5)"
      /></linearGradient
    >
    <rect y="6" width={at(value)} height="12" fill="url(#{unique}-glow)" />
  {/if}
  {#if range}
    <rect x={at(range.low)} y="11" width={Math.max(0.4, at(range.high) - at(range.low))} height="2" fill="var(--bed-text)" />
  {/if}
  {#if found != null}<rect x={Math.max(0, at(found) - 0.5)} y="1" width="1" height="22" fill="var(--chalk)" />{/if}
</svg>
