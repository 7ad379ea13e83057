<script lang="ts">
  import ListOrdered from '@lucide/svelte/icons/list-ordered';
  import Printer from '@lucide/svelte/icons/printer';
  import Projector from '@lucide/svelte/icons/projector';
  import { drumKit } from '../kit/drumKit.svelte';
  import { counted } from '../shell/figures';
  import EveningCard from './EveningCard.svelte';
  import EveningStrip from './EveningStrip.svelte';
  import { night } from './night.svelte';
  import { called, outcome, second, WEIGHINGS } from './say';
  import SetListEditor from './SetListEditor.svelte';
  import { stage } from './stage.svelte';

  let editing = $state(false);
  let name = $state('');

  const tonight = $derived(drumKit.kit?.tonight);
  const evening = $derived(night.evening);
  const plan = $derived(night.plan);

  function make(event: SubmitEvent) {
    event.preventDefault();
    void night.addSetList({ name, gap_s: 20, entries: [] });
    name = '';
    editing = true;
  }
</script>

<div class="no-print">
  <div class="mb-4 flex flex-wrap items-end gap-3">
    <label class="grid min-w-0 gap-1 max-sm:w-full">
      <span class="soft">Where</span>
      <select
        class="select w-full text-lg sm:w-64"
        value={tonight?.venue_id ?? ''}
        onchange={(event) => void night.chooseVenue(event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
      >
        <option value="">Nowhere in particular</option>
        {#each night.venues as venue (venue.id)}<option value={venue.id}>{venue.name}</option>{/each}
      </select>
    </label>
    <label class="grid min-w-0 gap-1 max-sm:w-full">
      <span class="soft">Set list</span>
      <select
        class="select w-full text-lg sm:w-64"
        value={tonight?.set_list_id ?? ''}
        onchange={(event) => void night.chooseSetList(event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
      >
        <option value="">No set list</option>
        {#each night.setLists as list (list.id)}<option value={list.id}>{list.name}</option>{/each}
      </select>
    </label>
    {#if night.setList}
      <button class="btn" aria-expanded={editing} onclick={() => (editing = !editing)}>
        <ListOrdered class="size-5" aria-hidden="true" />{editing ? 'Close the list' : 'Edit the list'}
      </button>
      {#if plan && evening && evening.songs.length > 0}
        <span class="flex flex-wrap gap-2 sm:ml-auto">
          <button class="btn btn-primary" onclick={() => stage.begin()}>
            <Projector class="size-5" aria-hidden="true" />Stage view <kbd>V</kbd>
          </button>
          <button class="btn" onclick={() => window.print()}><Printer class="size-5" aria-hidden="true" />Print the card</button>
        </span>
      {/if}
    {:else}
      <form class="flex flex-wrap items-end gap-2" onsubmit={make}>
        <label class="grid gap-1">
          <span class="soft">or make a new one</span>
          <input class="input text-lg" bind:value={name} required maxlength="80" placeholder="Name of the set list" />
        </label>
        <button class="btn btn-primary">Make it</button>
      </form>
    {/if}
  </div>

  {#if night.setList && editing}<SetListEditor />{/if}

  {#if !night.setList}
    <p class="max-w-prose text-lg">
      A set list puts songs in their order. Soft Ember then finds for each song and drum what should be on it, so that the sound is right
      and you change as little as possible between songs.
    </p>
  {:else if evening && evening.songs.length === 0 && !editing}
    <p class="text-lg">
      “{night.setList.name}” is empty. <button class="link text-lg" onclick={() => (editing = true)}>Put songs on it.</button>
    </p>
  {/if}
  {#if night.setList && !evening && night.solving}
    <p class="text-lg" role="status">Working out what each song needs …</p>
  {/if}
  {#if evening}
    {#each evening.notes as note, index (index)}<p class="border-warning mb-2 border-l-4 pl-3 text-lg">{note}</p>{/each}
  {/if}
  {#if evening && !plan && evening.songs.length > 0}
    <ol class="grid max-w-3xl gap-1">
      {#each evening.songs as song (song.entry)}
        <li class="border-base-300 flex flex-wrap items-baseline justify-between gap-x-4 border-b py-1">
          <bdi class="text-lg font-semibold">{song.song.title}</bdi>
          <span class="soft">{song.genre}, {song.song.bpm} BPM</span>
        </li>
      {/each}
    </ol>
  {/if}
  {#if evening && plan}
    <div class="mb-3 grid gap-2 md:grid-cols-3" role="radiogroup" aria-label="How the evening is weighed">
      {#each evening.plans as each (each.weighing)}
        {@const { name, words } = WEIGHINGS[each.weighing]}
        <label
          class="border-base-300 has-checked:border-primary has-checked:bg-base-200 grid cursor-pointer content-start rounded-box border px-4 py-2 has-focus-visible:outline-3"
        >
          <span class="flex items-center gap-2 text-xl">
            <input type="radio" class="radio radio-primary radio-sm" name="weighing" value={each.weighing} bind:group={night.weighing} />
            <span class="display">{name}</span>
          </span>
          <span>{outcome(each)}</span>
          <span class="soft text-sm">{words}</span>
        </label>
      {/each}
    </div>
    <p class="soft mb-2 max-w-prose text-sm" aria-busy={night.solving}>
      {second(evening, plan)}
    </p>
    <p class="mb-4 flex flex-wrap items-center gap-3">
      {#if night.keepsPlan}
        <span>You keep to this plan. If songs change, only what would sound wrong is changed.</span>
        <button class="btn btn-sm" onclick={() => void night.planAnew()}>Plan it anew</button>
        {#if night.played > 0}
          <span>{counted(night.played, 'song', 'songs')} played: what was on stays as it was.</span>
          <button class="btn btn-sm" onclick={() => void night.notPlayed()}>Start again from the first song</button>
        {/if}
      {:else}
        <button class="btn btn-sm" onclick={() => void night.keepPlan()}>Keep to this plan</button>
        <span class="soft text-sm">Then, if you change one song, the others stay as they are.</span>
      {/if}
    </p>
    {#if plan.looks.length > 1}
      <h3 id="looks-title" class="mb-1 text-xl">The kit in {plan.looks.length} looks</h3>
      <!-- What scrolls must be reachable by keyboard. -->
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div class="mb-4 overflow-x-auto" role="region" aria-labelledby="looks-title" tabindex="0">
        <table class="table max-w-5xl text-base">
          <thead>
            <tr>
              <th scope="col">Look</th>
              {#each evening.drums as drum (drum.drum_id)}<th scope="col">{drum.name}</th>{/each}
              <th scope="col">Songs</th>
            </tr>
          </thead>
          <tbody>
            {#each plan.looks as look, index (look.name)}
              <tr>
                <th scope="row" class="text-lg">{look.name}</th>
                {#each evening.drums as drum, at (drum.drum_id)}
                  {@const setup = drum.setups[look.setups[at] ?? 0]}
                  <td>{setup ? called(setup) : ''}</td>
                {/each}
                <td>{plan.rows.filter((row) => row.look === index).length}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
    <EveningStrip {evening} {plan} />
    <section class="mt-6" aria-labelledby="packing-title">
      <h3 id="packing-title" class="mb-2 text-xl">To pack</h3>
      <ul class="grid max-w-4xl gap-x-6 gap-y-1 sm:grid-cols-2">
        {#each plan.packing as thing (thing.thing)}
          <li><span class="text-lg">{thing.count ? `${thing.count} × ` : ''}{thing.thing}</span> <span class="soft">{thing.why}</span></li>
        {/each}
      </ul>
    </section>
  {/if}
</div>
{#if evening && plan && night.setList}<EveningCard
    {evening}
    {plan}
    name={night.setList.name}
    venue={night.venue?.name}
    date={night.setList.date}
  />{/if}
