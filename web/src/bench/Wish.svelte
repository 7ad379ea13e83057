<script lang="ts">
  // One figure against what is wanted of it.
  import Check from '@lucide/svelte/icons/check';
  import MoveDown from '@lucide/svelte/icons/arrow-down';
  import MoveUp from '@lucide/svelte/icons/arrow-up';

  interface Props {
    /** The drum as a whole is as near to the wish as can be noticed. */
    fits: boolean | undefined;
    name: string;
    is: number | null | undefined;
    show: (value: number) => string;
    least?: number | undefined;
    most: number;
  }
  let { fits, name, is, show, least, most }: Props = $props();

  const over = $derived(!fits && is != null && is > most);
  const under = $derived(!fits && is != null && least !== undefined && is < least);
</script>

<div class="border-base-300 rounded-box border px-3 py-2">
  <dt class="soft">{name}</dt>
  <dd class="flex flex-wrap items-baseline gap-x-3">
    {#if is != null}
      <span class="display text-3xl">{show(is)}</span>
      {#if over}<MoveDown class="text-primary size-6 self-center" aria-label="too much" />
      {:else if under}<MoveUp class="text-primary size-6 self-center" aria-label="too little" />
      {:else}<Check class="text-success size-6 self-center" aria-label="as wanted" />{/if}
    {/if}
    <span class="text-lg">wanted {least === undefined ? `at most ${show(most)}` : `${show(least)} to ${show(most)}`}</span>
  </dd>
</div>
