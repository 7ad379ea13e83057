<script lang="ts">
  import type { Range } from '../api/types';
  import { seconds } from '../shell/figures';

  interface Props {
    name: string;
    from: number | null | undefined;
    to: number | null | undefined;
    range: Range | null | undefined;
  }
  let { name, from, to, range }: Props = $props();
</script>

<div class="grid grid-cols-[2.75rem_1fr] items-baseline">
  <dt class="soft">{name}</dt>
  <dd>
    {seconds(from)} → <span class="display text-xl">{seconds(to)}</span>
    {#if range}<span class="soft whitespace-nowrap">({seconds(range.low)} to {seconds(range.high)})</span>{/if}
  </dd>
</div>
