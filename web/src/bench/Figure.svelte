<script lang="ts">
  import { fixed } from '../shell/figures';
  // A measured figure, large, with its doubt.
  interface Props {
    name: string;
    value: string;
    doubt: number | null | undefined;
    as?: 'seconds' | 'percent';
    note: string;
  }
  let { name, value, doubt, as = 'seconds', note }: Props = $props();

  const shown = $derived.by(() => {
    if (doubt == null) return '';
    if (as === 'percent') return `± ${Math.max(1, Math.round(100 * doubt))} %`;
    return value.endsWith('ms')
      ? `± ${Math.max(1, Math.ceil(1000 * doubt))} ms`
      : `± ${fixed(Math.max(0.01, Math.ceil(100 * doubt) / 100), 2)} s`;
  });
</script>

<div class="bg-base-200 min-w-0 rounded-box px-3 py-2">
  <dt class="soft">{name}</dt>
  <dd>
    <span class="display text-3xl whitespace-nowrap sm:text-4xl">{value}</span>
    <span class="text-lg whitespace-nowrap">{shown}</span>
    <span class="soft block text-sm leading-tight">{note}</span>
  </dd>
</div>
