<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import X from '@lucide/svelte/icons/x';
  import { onMount } from 'svelte';
  import { api, songsAs } from '../api/client';
  import type { Entry, KeptSong } from '../api/types';
  import { kits } from '../kit/kits.svelte';
  import { server } from '../shell/server.svelte';
  import { night } from './night.svelte';

  const MOST_SHOWN = 30;

  let search = $state('');
  let found = $state.raw<KeptSong[]>([]);
  let all = $state(0);
  /** Songs just added, whose names the evening does not know yet. */
  let added = $state.raw<Record<number, string>>({});
  let asked = 0;

  const list = $derived(night.setList);
  const titles = $derived<Record<number, string>>({
    ...added,
    ...Object.fromEntries((night.evening?.songs ?? []).map(({ song }) => [song.id, song.title])),
  });

  async function find() {
    const mine = ++asked;
    await server.attempt(async () => {
      const page = await api.songs(search, MOST_SHOWN);
      if (mine !== asked) return;
      found = page.songs;
      all = page.in_all;
    });
  }

  onMount(() => {
    void find();
    void kits.load();
  });

  function save(entries: Entry[], said: string) {
    if (list) void night.saveSetList({ entries }, said);
  }

  function add(song: KeptSong) {
    added = { ...added, [song.id]: song.title };
    if (list) save([...list.entries, { kind: 'song', song_id: song.id, gap_s: null, pins: [] }], `“${song.title}” is on the list.`);
  }

  function move(index: number, by: number) {
    if (!list) return;
    const entries = [...list.entries];
    const [entry] = entries.splice(index, 1);
    if (entry) entries.splice(index + by, 0, entry);
    save(entries, 'Moved.');
  }

  function change(index: number, entry: Entry) {
    if (list)
      save(
        list.entries.map((each, at) => (at === index ? entry : each)),
        'Changed.',
      );
  }

  const nameOf = (entry: Entry) => (entry.kind === 'break' ? entry.title : (titles[entry.song_id] ?? 'a song that was removed'));
  const time = (input: HTMLInputElement) =>
    Number.isFinite(input.valueAsNumber) && input.valueAsNumber >= 0 ? input.valueAsNumber : undefined;
</script>

{#if list}
  <section class="border-base-300 mb-6 grid gap-6 rounded-box border p-4 lg:grid-cols-[3fr_2fr]" aria-label="Edit the set list">
    <div class="min-w-0">
      <div class="mb-3 flex flex-wrap gap-3">
        <label class="grid gap-1">
          <span class="soft">Name</span>
          <input
            class="input text-lg"
            maxlength="80"
            value={list.name}
            onchange={(event) => {
              const { value } = event.currentTarget;
              if (value.trim()) void night.saveSetList({ name: value }, 'The list has a new name.');
            }}
          />
        </label>
        <label class="grid gap-1">
          <span class="soft">Played on</span>
          <select
            class="select text-lg"
            value={list.kit_id ?? ''}
            onchange={(event) => {
              const { value } = event.currentTarget;
              void night.saveSetList({ kit_id: value === '' ? null : Number(value) }, 'The evening has its kit.');
            }}
          >
            <option value="">tonight’s kit</option>
            {#each kits.all?.kits ?? [] as row (row.id)}<option value={row.id}>{row.name}</option>{/each}
          </select>
        </label>
        <label class="grid gap-1">
          <span class="soft">Night</span>
          <input
            class="input text-lg"
            type="date"
            value={list.date ?? ''}
            onchange={(event) => {
              const { value } = event.currentTarget;
              void night.saveSetList({ date: value || null }, value ? 'The evening has its date.' : 'No date.');
            }}
          />
        </label>
        <label class="grid gap-1">
          <span class="soft">Usually between songs, s</span>
          <input
            class="input w-32 text-lg"
            type="number"
            min="0"
            max="14400"
            value={list.gap_s}
            onchange={(event) => {
              const gap_s = time(event.currentTarget);
              if (gap_s !== undefined) void night.saveSetList({ gap_s }, 'The time between songs was changed.');
            }}
          />
        </label>
      </div>
      <ol class="grid gap-1" aria-label="Songs and breaks in their order">
        {#each list.entries as entry, index (index)}
          <li class="border-base-300 flex flex-wrap items-center gap-2 border-b py-1">
            <span class="grow {entry.kind === 'break' ? 'soft' : 'text-lg'}"><bdi>{nameOf(entry)}</bdi></span>
            {#if entry.kind === 'break'}
              <label class="flex items-center gap-1 text-sm">
                <input
                  class="input input-sm w-20"
                  type="number"
                  min="0"
                  max="240"
                  step="any"
                  value={Math.round(entry.seconds / 6) / 10}
                  aria-label="Minutes of {entry.title}"
                  onchange={(event) => {
                    const minutes = time(event.currentTarget);
                    if (minutes !== undefined) change(index, { ...entry, seconds: 60 * minutes });
                  }}
                /> min
              </label>
            {:else if index > 0}
              <label class="flex items-center gap-1 text-sm">
                <input
                  class="input input-sm w-20"
                  type="number"
                  min="0"
                  max="14400"
                  placeholder={String(list.gap_s)}
                  value={entry.gap_s ?? ''}
                  aria-label="Seconds before {nameOf(entry)}; empty for the usual"
                  onchange={(event) => change(index, { ...entry, gap_s: time(event.currentTarget) ?? null })}
                /> s before
              </label>
            {/if}
            <span class="flex">
              <button
                class="btn btn-ghost btn-square btn-sm"
                disabled={index === 0}
                aria-label="{nameOf(entry)} up"
                onclick={() => move(index, -1)}><ArrowUp class="size-5" aria-hidden="true" /></button
              >
              <button
                class="btn btn-ghost btn-square btn-sm"
                disabled={index === list.entries.length - 1}
                aria-label="{nameOf(entry)} down"
                onclick={() => move(index, 1)}><ArrowDown class="size-5" aria-hidden="true" /></button
              >
              <button
                class="btn btn-ghost btn-square btn-sm"
                aria-label="{nameOf(entry)} off the list"
                onclick={() =>
                  save(
                    list.entries.filter((_, at) => at !== index),
                    `“${nameOf(entry)}” is off the list.`,
                  )}><X class="size-5" aria-hidden="true" /></button
              >
            </span>
          </li>
        {:else}
          <li class="soft py-2">Nothing on it yet: add songs from beside.</li>
        {/each}
      </ol>
      <div class="mt-3 flex flex-wrap gap-2">
        <button
          class="btn btn-sm"
          onclick={() => save([...list.entries, { kind: 'break', title: 'Break', seconds: 900 }], 'A break was added.')}
        >
          Add a break
        </button>
        {#if list.entries.length > 0}
          <a class="btn btn-sm" href={songsAs('csv', list.id)} download>Its songs as CSV</a>
          <a class="btn btn-sm" href={songsAs('json', list.id)} download>as JSON</a>
        {/if}
        <button class="btn btn-sm btn-ghost text-error ml-auto" onclick={() => void night.removeSetList()}>Remove the list</button>
      </div>
    </div>
    <div class="min-w-0">
      <label class="mb-2 grid gap-1">
        <span class="soft">Find a song</span>
        <input class="input w-full text-lg" type="search" bind:value={search} oninput={() => void find()} placeholder="Part of its title" />
      </label>
      <ul class="max-h-96 overflow-y-auto">
        {#each found as song (song.id)}
          <li>
            <button class="btn btn-ghost btn-block h-auto justify-between gap-3 py-1 text-left font-normal" onclick={() => add(song)}>
              <bdi class="text-lg">{song.title}</bdi><span class="soft text-sm">{song.bpm} BPM</span>
            </button>
          </li>
        {:else}
          <li class="soft">
            {search ? 'No song is called that.' : 'There are no songs yet.'}
            <button class="link" onclick={() => (night.part = 'songs')}>Add songs.</button>
          </li>
        {/each}
      </ul>
      {#if all > found.length}<p class="soft text-sm">{all - found.length} more: type part of the title.</p>{/if}
    </div>
  </section>
{/if}
