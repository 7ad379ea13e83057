<script lang="ts">
  // What was tapped and turned on this head, newest first.
  import Trash from '@lucide/svelte/icons/trash-2';
  import type { Tuning } from '../api/types';
  import { when, fixed } from '../shell/figures';
  import { turning } from './say';
  import { tune } from './tune.svelte';

  let { tuning }: { tuning: Tuning } = $props();
  const turned = (eighths: number[]) =>
    eighths.flatMap((count, lug) => (count === 0 ? [] : [`lug ${lug + 1} ${turning(count)}`])).join(', ') || 'nothing';
</script>

<details class="mt-2">
  <summary class="text-lg">Rounds on this head ({tuning.rounds.length})</summary>
  <ul class="mt-1 max-w-4xl">
    {#each tuning.rounds as round (round.id)}
      <li class="border-base-300 flex items-center gap-4 border-b py-1.5">
        <div class="grow">
          <span class="whitespace-nowrap">{when(round.begun_at)}</span>
          <span class="ml-3">
            {#if round.pitches.mean_hz != null}
              {fixed(round.pitches.mean_hz, 1)} Hz, within {Math.round(round.pitches.spread_cents ?? 0)} cents
            {:else}
              no pitch
            {/if}
            {#if round.pitches.lugs.length < round.lugs}({round.pitches.lugs.length} of {round.lugs} lugs){/if}
          </span>
          {#if round.source === 'simulated'}<span class="badge badge-outline soft ml-2">simulated</span>{/if}
          {#if round.turned}<p class="soft text-sm">Then turned: {turned(round.turned)}</p>{/if}
        </div>
        <button
          class="btn btn-ghost btn-square no-print"
          aria-label="Remove the round of {when(round.begun_at)}"
          onclick={() => void tune.removeRound(round.id)}><Trash class="size-5" aria-hidden="true" /></button
        >
      </li>
    {/each}
  </ul>
  {#if tuning.rounds[0] && !tuning.rounds[0].turned && tuning.rounds[0].pitches.lugs.length < tuning.lugs}
    <button class="btn btn-ghost mt-2" onclick={() => tune.tap({ anew: true })}>I turned a rod in between: begin a new round</button>
  {/if}
</details>
