<script lang="ts">
  import type { Range } from '../api/types';
  import { hertz, seconds, said } from '../shell/figures';

  interface Props {
    name: string;
    /** Pitch of the tone that both times are of, Hz. */
    hz?: number | null | undefined;
    from: number | null | undefined;
    to: number | null | undefined;
    range: Range | null | undefined;
  }
  let { name, hz, from, to, range }: Props = $props();
</script>

<div class="grid grid-cols-[2.75rem_1fr] items-baseline">
  <dt class="soft">
    {name}{#if hz}<span class="sr-only"> at {hertz(hz)}</span>{/if}
  </dt>
  <dd>
    {seconds(from)} → <span class="display text-xl">{from != null && to == null ? said('gone') : seconds(to)}</span>
    {#if range}<span class="soft whitespace-nowrap">({seconds(range.low)} to {seconds(range.high)})</span>{/if}
  </dd>
</div>
