<script lang="ts">
  // What to turn next, in order; and what was turned instead.
  import { fixed } from '../shell/figures';
  import type { Tuning } from '../api/types';
  import { signed, centsBetween, turning } from './say';
  import { tune } from './tune.svelte';

  let { tuning }: { tuning: Tuning } = $props();
  const next = $derived(tuning.next);
  /** One bolt pulls the whole hoop, by half turns. */
  const oneBolt = $derived(tuning.one_bolt);
  const step = $derived(oneBolt ? 4 : 1);
  let own = $state(false);
  let eighths = $state<number[]>([]);

  function change() {
    eighths = tune.advised();
    own = true;
  }

  async function report() {
    own = false;
    await tune.turned([...eighths]);
  }
</script>

{#if next}
  {#if next.done || next.turns.length === 0}
    <p class="text-xl">
      {next.done
        ? oneBolt
          ? 'Within half of a half turn: leave the bolt as it is.'
          : 'Nothing needs turning.'
        : 'No eighth of a turn makes it better than it is.'}
    </p>
  {:else}
    <ol class="grid gap-x-6 gap-y-1 text-xl sm:grid-cols-2">
      {#each next.turns as turn, i (turn.lug)}
        <li class="border-base-300 flex items-baseline gap-3 border-b py-1.5">
          {#if oneBolt}
            <span class="display whitespace-nowrap">The bolt</span>
          {:else}
            <span class="soft w-6 text-right text-base">{i + 1}.</span>
            <span class="display whitespace-nowrap">Lug {turn.lug + 1}</span>
          {/if}
          <span class="ml-auto text-right">{turning(turn.eighths)}</span>
        </li>
      {/each}
    </ol>
    <p class="soft mt-2">
      {#if oneBolt}
        Expected after it: {fixed(next.expected_hz[0] ?? 0, 1)} Hz ±{Math.round(next.sd_cents)} cents.
      {:else}
        Expected after it: lugs within {Math.round(next.expected_spread_cents)} cents, each ±{Math.round(next.sd_cents)} cents.
      {/if}
      {#if tuning.learned_from > 0}
        {#if tuning.learned_from === 1}Learned from one round of turns on this head.{:else}Learned from {tuning.learned_from} rounds of turns
          on this head.{/if}
      {:else}
        This head has not shown yet what a turn does: the next round will tell.
      {/if}
    </p>
  {/if}
  {#each next.cautions as caution (caution)}<p class="text-warning mt-2" role="note">{caution}</p>{/each}
  <div class="no-print mt-3">
    {#if own}
      <fieldset class="border-base-300 rounded-box min-w-0 border p-3">
        <legend class="px-1">What did you turn? In eighths, tighter is plus</legend>
        <div class="grid grid-cols-[repeat(auto-fill,minmax(10rem,1fr))] gap-2">
          {#each eighths as count, lug (lug)}
            <div class="flex items-center gap-1">
              <span class="w-12 whitespace-nowrap">Lug {lug + 1}</span>
              <button
                type="button"
                class="btn btn-sm btn-square"
                aria-label="Lug {lug + 1} looser"
                onclick={() => (eighths[lug] = count - step)}>−</button
              >
              <output class="w-8 text-center" aria-label="Lug {lug + 1}: {turning(count)}">{signed(count)}</output>
              <button
                type="button"
                class="btn btn-sm btn-square"
                aria-label="Lug {lug + 1} tighter"
                onclick={() => (eighths[lug] = count + step)}>+</button
              >
            </div>
          {/each}
        </div>
        <div class="mt-3 flex gap-2">
          <button type="button" class="btn btn-primary" disabled={eighths.every((count) => count === 0)} onclick={() => void report()}
            >These I turned</button
          >
          <button type="button" class="btn btn-ghost" onclick={() => (own = false)}>Cancel</button>
        </div>
      </fieldset>
    {:else}
      <button class="btn btn-ghost" onclick={change}>I turned something else …</button>
    {/if}
  </div>
{:else if tuning.rounds[0]?.turned}
  <p class="text-xl">Turned after the last round:</p>
  <ul class="mt-1 flex flex-wrap gap-x-6 text-lg">
    {#each tuning.rounds[0].turned as count, lug (lug)}
      {#if count !== 0}<li>lug {lug + 1} {turning(count)}</li>{/if}
    {/each}
  </ul>
{:else if tuning.uneven}
  <p class="soft text-lg">Its rods are let down on purpose. What it did and the way back stand below.</p>
{:else}
  <p class="soft text-lg">
    {tuning.rounds.length === 0
      ? 'After a round of taps the turns to make stand here: which rods, how far, in which order.'
      : 'The turns to make stand here as soon as enough lugs were heard.'}
  </p>
{/if}
{#if tuning.wanted_hz && tuning.pitch}
  <p class="soft mt-2">
    Wish: lugs at {fixed(tuning.wanted_hz, 1)} Hz; they are {signed(centsBetween(tuning.wanted_hz, tuning.pitch.lug_hz))} cents from it.
  </p>
{/if}
