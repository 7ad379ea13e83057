<script lang="ts">
  // Snare wires, loose to tight, by how long they buzz on.
  import type { Tuning } from '../api/types';
  import { view } from '../shell/view.svelte';

  let { tuning }: { tuning: Tuning } = $props();
  const wires = $derived(tuning.wires);
  const WISHES = { snappy: 'Snappy', medium: 'Medium', fat: 'Fat' } as const;
  const LONGEST_S = 0.4;
  const ms = (s: number) => Math.round(1000 * s);
  const at = (s: number) => 100 * Math.min(1, s / LONGEST_S);
</script>

<section class="bg-base-200 rounded-box min-w-0 p-4 lg:col-span-2" aria-labelledby="wires-title">
  <h3 id="wires-title" class="mb-2 text-xl">Snare wires</h3>
  {#if !tuning.drum.wires}
    <p class="soft text-lg">No wires on. While a head is tuned that is right; put them on again in the drum’s data (<kbd>E</kbd>).</p>
  {:else if wires}
    <p class="text-lg">
      They buzz on for <strong class="display text-2xl">{ms(wires.buzz_s)} ms</strong>
      {#if wires.scatter_s != null}<span class="soft ml-1">±{ms(1.645 * wires.scatter_s)}</span>{/if}, from 20 ms after the hit until 20 dB
      down.
      {#if wires.contradiction}{wires.contradiction}{/if}
    </p>
    <div
      class="relative mt-2 h-8 overflow-hidden rounded"
      style="background: var(--bed)"
      role="img"
      aria-label="{ms(wires.buzz_s)} milliseconds"
    >
      <div class="h-full" style="width: {at(wires.buzz_s)}%; background: linear-gradient(to right, var(--ember-2), var(--ember-5))"></div>
      {#each wires.steps as step (step.wish)}
        {#if step.to_s != null}
          <div class="absolute inset-y-0 w-0.5" style="left: {at(step.to_s)}%; background: var(--chalk)"></div>
        {/if}
      {/each}
    </div>
    <ul class="mt-3 grid gap-2 sm:grid-cols-3">
      {#each wires.steps as step (step.wish)}
        <li class="border-base-300 rounded-box border p-3 {step.met ? 'border-success' : ''}">
          <strong class="display text-lg">{WISHES[step.wish]}</strong>
          <span class="soft whitespace-nowrap"
            >{step.from_s == null
              ? `under ${ms(step.to_s ?? 0)} ms`
              : step.to_s == null
                ? `over ${ms(step.from_s)} ms`
                : `${ms(step.from_s)} to ${ms(step.to_s)} ms`}</span
          ><br />{step.sentence}
        </li>
      {/each}
    </ul>
    <p class="soft mt-2 text-sm">
      Where snappy ends and fat begins is from experience. To hear the heads alone, throw the wires off or push a stick under them.
    </p>
  {:else}
    <p class="text-lg">
      Hit the open drum with its wires on, and how long they buzz stands here.
      <button class="btn btn-outline no-print ml-2" onclick={() => (view.place = 'bench')}>To the bench <kbd>B</kbd></button>
    </p>
  {/if}
</section>
