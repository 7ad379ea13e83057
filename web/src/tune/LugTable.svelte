<script lang="ts">
  import { fixed, said } from '../shell/figures';
  import type { KeptRound, Tuning } from '../api/types';
  import { centsBetween, signed } from './say';
  import { tune } from './tune.svelte';

  let { tuning, round }: { tuning: Tuning; round: KeptRound } = $props();
  const lugs = $derived(Array.from({ length: tuning.lugs }, (_, lug) => round.pitches.lugs.find((pitch) => pitch.lug === lug)));
  const mean = $derived(round.pitches.mean_hz);
</script>

<details class="print-open mt-4">
  <summary class="text-lg">Exact figures of every lug</summary>
  <div class="overflow-x-auto">
    <table class="table max-w-3xl">
      <thead>
        <tr><th>Lug</th><th>Pitch</th><th>Note</th><th>From the mean</th><th>Doubt</th><th class="no-print"></th></tr>
      </thead>
      <tbody>
        {#each lugs as pitch, lug (lug)}
          <tr>
            <th scope="row">{lug + 1}{lug === 0 ? ' (first)' : ''}</th>
            {#if pitch}
              <td>{fixed(pitch.hz, 1)} Hz</td>
              <td>{pitch.note.name} {signed(pitch.note.cents)} cents</td>
              <td>{mean == null ? '–' : `${signed(centsBetween(mean, pitch.hz))} cents`}</td>
              <td>±{fixed(pitch.sd_cents, 1)} cents</td>
            {:else}
              <td colspan="4" class="soft">not heard</td>
            {/if}
            <td class="no-print">
              {#if !round.turned}
                <button class="btn btn-sm btn-ghost" onclick={() => tune.tap({ again_lug: lug })}
                  >Tap {pitch ? said('again') : said('it')}</button
                >
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
</details>
