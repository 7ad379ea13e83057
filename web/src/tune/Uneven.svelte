<script lang="ts">
  // Rods let down on purpose: how, what it did, and the exact way back.
  import { api } from '../api/client';
  import type { DecayProfile, KeptUneven, Tuning, UnevenRecipe, UnevenState } from '../api/types';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { view } from '../shell/view.svelte';
  import { hertz, seconds, when } from '../shell/figures';
  import { guide } from './guide.svelte';
  import { tune } from './tune.svelte';
  import NumberField from '../shell/NumberField.svelte';

  let { tuning }: { tuning: Tuning } = $props();
  let known = $state.raw<UnevenState>();
  /** As many turns as usually make a rod slack, until its player counted them. */
  const USUAL_SLACK_TURNS = 4;
  let slackTurns = $state(USUAL_SLACK_TURNS);
  let refused = $state('');
  let asked = 0;

  $effect(() => {
    void load(tuning);
  });

  async function load({ drum, side }: Tuning) {
    const mine = ++asked;
    await server.attempt(async () => {
      const answer = await api.uneven(drum.id, side);
      if (mine === asked) known = answer;
    });
  }

  const newest = $derived(known?.newest);
  const now = $derived(newest && newest.ended_at == null ? newest : undefined);
  const name = (recipe: UnevenRecipe) => known?.choices.find((choice) => choice.recipe === recipe)?.name ?? 'Let down';

  /** Notes what the guide was gone through for, at once: strikes that come now are of the uneven drum. */
  async function note(recipe: UnevenRecipe) {
    await server.attempt(async () => {
      const eighths = recipe === 'three_down' ? 8 * USUAL_SLACK_TURNS : null;
      const kept = await api.letDown(tuning.drum.id, tuning.side, recipe, eighths);
      slackTurns = USUAL_SLACK_TURNS;
      notices.add('Noted as let down. Hit the drum to hear what it did.', () => api.notLetDown(kept.id).then(() => tune.load()));
      await tune.load();
    });
  }

  /** Says how many turns it took until lug 1 was slack, for the way back. */
  async function correct({ id, recipe }: KeptUneven) {
    refused = '';
    try {
      await api.notLetDown(id);
      const kept = await api.letDown(tuning.drum.id, tuning.side, recipe, Math.round(8 * slackTurns));
      notices.add('Noted for the way back.', () => api.notLetDown(kept.id).then(() => tune.load()));
      await tune.load();
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }

  async function back(id: number) {
    await server.attempt(async () => {
      await api.rodsBack(id);
      notices.add('The rods are back. Tap a round to see whether they read as before.', () => api.rodsNotBack(id).then(() => tune.load()));
      await tune.load();
    });
  }

  function rows(before: DecayProfile | null | undefined, after: DecayProfile | null | undefined) {
    return [
      { name: 'Body lasts', before: seconds(before?.body_t60_s), after: seconds(after?.body_t60_s) },
      { name: 'Body sounds', before: hertz(before?.body_hz), after: hertz(after?.body_hz) },
      { name: 'Ring lasts', before: seconds(before?.ring_t60_s), after: seconds(after?.ring_t60_s) },
      { name: 'Ring sounds', before: hertz(before?.ring_hz), after: hertz(after?.ring_hz) },
    ];
  }
</script>

{#if known && (known.choices.length > 0 || newest)}
  <section class="bg-base-200 rounded-box min-w-0 p-4 lg:col-span-2" aria-labelledby="uneven-title">
    <h3 id="uneven-title" class="mb-2 text-xl">Deliberately uneven</h3>
    {#if now}
      {@const here = now}
      <p class="text-lg"><strong class="display">{name(now.recipe)}</strong> since {when(now.begun_at)}: {known.turned}.</p>
      {#if now.recipe === 'three_down' && !known.after}
        <form
          class="no-print mt-2 flex flex-wrap items-end gap-3"
          onsubmit={(event) => {
            event.preventDefault();
            void correct(here);
          }}
        >
          <NumberField
            label="Turns until lug 1 was slack, for the way back"
            min={0.125}
            max={15}
            step={0.125}
            width="w-32"
            bind:value={slackTurns}
          />
          <button class="btn btn-sm mb-1">Correct it</button>
          {#if refused}<p class="text-error w-full" role="alert">{refused}</p>{/if}
        </form>
      {/if}
    {:else}
      <ul class="grid gap-2 sm:grid-cols-2">
        {#each known.choices as choice (choice.recipe)}
          <li class="border-base-300 rounded-box flex flex-wrap items-center gap-3 border p-3">
            <span class="min-w-40 grow"><strong class="display text-lg">{choice.name}</strong><br />{choice.does}</span>
            <button class="btn btn-outline no-print" onclick={() => guide.begin(choice.name, choice.steps, () => void note(choice.recipe))}
              >Guide me</button
            >
          </li>
        {/each}
      </ul>
      {#if newest && known.back}<p class="mt-3 text-lg">{known.back}</p>{/if}
    {/if}
    {#if newest && (now || known.after)}
      <table class="table mt-2 max-w-xl">
        <caption class="sr-only">The open drum before the rods were let down and after</caption>
        <thead><tr><th></th><th>Before</th><th>Let down</th></tr></thead>
        <tbody>
          {#each rows(known.before, known.after) as row (row.name)}
            <tr
              ><th scope="row">{row.name}</th><td>{known.before ? row.before : 'not measured'}</td><td
                >{known.after ? row.after : 'not measured yet'}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    {/if}
    {#if now}
      <div class="no-print mt-3 flex flex-wrap gap-2">
        {#if !known.after}
          <button class="btn btn-primary" onclick={() => (view.place = 'bench')}>Measure it on the bench <kbd>B</kbd></button>
        {/if}
        <button
          class="btn {known.after ? 'btn-primary' : 'btn-outline'}"
          onclick={() => guide.begin('The way back', known?.steps_back ?? [], () => void back(now.id))}>Guide me back</button
        >
        <button class="btn btn-ghost" onclick={() => void back(now.id)}>They are back already</button>
      </div>
    {/if}
  </section>
{/if}
