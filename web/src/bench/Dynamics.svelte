<script lang="ts">
  // How the decay depends on how hard the drum is hit.
  import type { TakeView } from '../api/types';
  import { decibels, seconds } from '../shell/figures';
  import { DYNAMIC } from './look.svelte';

  let { take }: { take: TakeView } = $props();

  const rows = $derived(take.summary.dynamics);
  /** What changes most between the softest and the hardest, in words. */
  const sentence = $derived.by(() => {
    const [soft, hard] = [rows[0], rows.at(-1)];
    const [a, b] = [soft?.profile.body_t60_s, hard?.profile.body_t60_s];
    if (!a || !b) return '';
    const part = Math.round(100 * (b / a - 1));
    if (Math.abs(part) < 4) return 'The body lasts the same however hard it is hit.';
    return `Hit hard, the body ${part < 0 ? 'falls faster' : 'lasts longer'}: by ${Math.abs(part)} % against soft.`;
  });
</script>

{#if rows.length > 1}
  <h3 class="mt-3 text-lg">Soft to hard</h3>
  {#if sentence}<p>{sentence}</p>{/if}
  <div class="overflow-x-auto">
    <table class="table-sm table">
      <thead>
        <tr>
          <th scope="col">Hit</th><th scope="col">peak</th><th scope="col">body</th><th scope="col">ring</th><th scope="col">first 10 dB</th
          >
        </tr>
      </thead>
      <tbody>
        {#each rows as row (row.dynamic)}
          <tr>
            <th scope="row" class="font-normal">{DYNAMIC[row.dynamic]}, {row.strikes_used}×</th>
            <td>{decibels(row.peak_dbfs)}FS</td>
            <td>{seconds(row.profile.body_t60_s)}</td>
            <td>{seconds(row.profile.ring_t60_s)}</td>
            <td>{seconds(row.edt_s)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
