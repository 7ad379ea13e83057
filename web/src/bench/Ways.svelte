<script lang="ts">
  // Where a cymbal is struck, or how far a hi-hat is open: each is measured by itself.
  import type { Bench, Struck } from '../api/types';
  import { workbench } from './workbench.svelte';
  import { seconds } from '../shell/figures';

  let { bench }: { bench: Bench } = $props();

  const ways = $derived(bench.ways_to_strike);
  const heard = (wash: number | null | undefined) => (wash == null ? 'not heard yet' : `wash ${seconds(wash)}`);

  const strike = (struck: Struck, words: string) => void workbench.setStruck(bench.drum, struck, words);
</script>

{#if ways.length > 0}
  <div class="no-print mb-3 flex flex-wrap gap-1" role="group" aria-label="Where it is struck, or how far it is open">
    {#each ways as { struck, words, now, heard: sound } (struck)}
      <button
        class="btn h-auto flex-col items-start gap-0 py-1 {now ? 'btn-secondary' : ''}"
        aria-pressed={now}
        onclick={() => strike(struck, words)}
      >
        <span class="first-letter:uppercase">{words}</span>
        <span class="text-xs font-normal {now ? '' : 'soft'}">{heard(sound?.wash?.t60_s)}</span>
      </button>
    {/each}
  </div>
{/if}
