<script lang="ts">
  // Both heads of the drum: their interval, what they sound together, and what schools want of them.
  import type { HeadPair, Range, Tuning } from '../api/types';
  import { otherHead } from '../kit/kinds.svelte';
  import { seconds, fixed, said, within } from '../shell/figures';
  import { signed } from './say';
  import { tune } from './tune.svelte';

  let { tuning, pair }: { tuning: Tuning; pair: HeadPair } = $props();
  const lower = $derived(within(otherHead(tuning.drum.kind)));
  const range = ({ low, high }: Range) => `${fixed(low, 2)} to ${fixed(high, 2)} s`;
  const interval = $derived.by(() => {
    const cents = pair.interval_cents;
    if (cents == null) return `The ${lower} was not tapped yet.`;
    if (Math.abs(cents) < 15) return 'Both heads alike.';
    return `The ${lower} is ${Math.round(Math.abs(cents))} cents ${cents > 0 ? said('higher') : said('lower')} than the batter.`;
  });
</script>

<section class="bg-base-200 rounded-box p-4 lg:col-span-2" aria-labelledby="pair-title">
  <h3 id="pair-title" class="mb-2 text-xl">Two heads</h3>
  <p class="text-lg">
    {interval}
    {#if pair.body_hz != null && pair.body_note}
      Together they should sound about <strong>{fixed(pair.body_hz, 0)} Hz</strong>
      ({pair.body_note.name}
      {signed(pair.body_note.cents)} cents)
      {#if pair.body_t60_s != null && pair.body_t60_range}
        for <strong>{seconds(pair.body_t60_s)}</strong> <span class="soft">({range(pair.body_t60_range)})</span>{/if}.
      {#if tuning.measured_body_hz}
        Measured: {fixed(tuning.measured_body_hz, 0)} Hz for {seconds(tuning.measured_body_t60_s)}.
      {:else}
        Not measured since it was last tuned.
      {/if}
    {/if}
  </p>
  <div class="mt-3 overflow-x-auto">
    <table class="table">
      <caption class="sr-only">What schools want of the {lower}, the batter as it is</caption>
      <thead
        ><tr><th>School</th><th>What for</th><th>Its lugs</th><th>Would sound</th><th>Body would last</th><th class="no-print"></th></tr
        ></thead
      >
      <tbody>
        {#each pair.wishes as wish (wish.school)}
          <tr>
            <th scope="row" class="min-w-36"
              >{wish.name}{#if wish.met}<span class="badge badge-success ml-2">so now</span>{/if}</th
            >
            <td class="min-w-32">{wish.words}</td>
            <td class="whitespace-nowrap">{fixed(wish.lower_lug_hz, 1)} Hz</td>
            <td class="whitespace-nowrap">about {fixed(wish.body_hz, 0)} Hz, {wish.body_note.name}</td>
            <td class="whitespace-nowrap">{seconds(wish.body_t60_s)} <span class="soft">({range(wish.body_t60_range)})</span></td>
            <td class="no-print text-right">
              <button class="btn btn-sm btn-outline" onclick={() => void tune.wishLower(wish.lower_lug_hz)}>Tune it so</button>
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p class="soft mt-1 text-sm">
    From the model of two heads on the air between them; a few per cent off is usual. Lengths {pair.from_measured
      ? 'start from this drum’s own, as measured.'
      : 'are those of such drums at large: measure this one for closer ones.'} In brackets where they lie nine times in ten.
  </p>
</section>
