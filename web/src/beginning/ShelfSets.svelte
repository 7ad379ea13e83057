<script lang="ts">
  // Sets of things that are usually to hand, each put on the shelf in one press.
  import { onMount } from 'svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import { deviceShelf } from '../shelf/deviceShelf.svelte';
  import { counted } from '../shell/figures';
  import { beginning, lackingOf } from './beginning.svelte';

  onMount(() => void beginning.load());

  const offered = $derived(beginning.sets.filter((set) => lackingOf(set, deviceShelf.devices).length > 0));
</script>

{#each offered as set (set.set)}
  {@const lacking = lackingOf(set, deviceShelf.devices)}
  <button
    class="btn h-auto min-h-10 max-w-full shrink py-1 text-wrap"
    disabled={beginning.busy}
    title={lacking.map(({ name, count }) => `${count} ${name}`).join(', ')}
    onclick={() => void beginning.addSet(set)}
    ><Plus class="size-5" aria-hidden="true" />{set.name}: {counted(lacking.length, 'thing', 'things')}</button
  >
{/each}
