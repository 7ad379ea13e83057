<script lang="ts">
  import Download from '@lucide/svelte/icons/download';
  import Plus from '@lucide/svelte/icons/plus';
  import Upload from '@lucide/svelte/icons/upload';
  import { onMount } from 'svelte';
  import { api, songsAs } from '../api/client';
  import type { KeptSong } from '../api/types';
  import { dialogs } from '../shell/dialogs.svelte';
  import { server } from '../shell/server.svelte';
  import { playedTonight } from './playedTonight.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { counted } from '../shell/figures';
  import { night } from './night.svelte';
  import SongEditor from './SongEditor.svelte';
  import SongImport from './SongImport.svelte';

  const PAGE = 100;

  let search = $state('');
  let songs = $state.raw<KeptSong[]>([]);
  let all = $state(0);
  let loaded = $state(false);
  let asked = 0;

  async function find(more = false) {
    const mine = ++asked;
    await server.attempt(async () => {
      const page = await api.songs(search, PAGE, more ? songs.at(-1)?.id : undefined);
      if (mine !== asked) return;
      songs = more ? [...songs, ...page.songs] : page.songs;
      all = page.in_all;
      loaded = true;
    });
  }

  onMount(() => void find());

  async function kept() {
    await find();
    await night.changed();
  }

  const genre = (code: string) => playedTonight.genres.find((each) => each.code === code)?.name ?? 'General';
</script>

<div class="mb-3 flex flex-wrap items-end gap-2">
  <label class="grid gap-1">
    <span class="soft">Find</span>
    <input
      class="input w-64 max-w-full text-lg"
      type="search"
      bind:value={search}
      oninput={() => void find()}
      placeholder="Part of the title"
    />
  </label>
  <button class="btn btn-primary" onclick={() => dialogs.show('song')}><Plus class="size-5" aria-hidden="true" />Add a song</button>
  <button class="btn" onclick={() => dialogs.show('song-list')}><Upload class="size-5" aria-hidden="true" />Take in a list</button>
  {#if all > 0}
    <a class="btn" href={songsAs('csv')} download><Download class="size-5" aria-hidden="true" />CSV</a>
    <a class="btn" href={songsAs('json')} download><Download class="size-5" aria-hidden="true" />JSON</a>
  {/if}
  <p class="soft sm:ml-auto" role="status">{loaded ? counted(all, 'song', 'songs') : ''}</p>
</div>
{#if loaded && all === 0}
  <p class="max-w-prose text-lg">
    {#if search}No song has “{search}” in its title.{:else}No songs yet. Add one by hand, or take in a list from a spreadsheet: a CSV file
      whose first line names the columns, title and bpm at least.{/if}
  </p>
{:else}
  <ul class="grid gap-1">
    {#each songs as song (song.id)}
      <li class="border-base-300 flex flex-wrap items-center gap-x-4 border-b">
        <button
          class="btn btn-ghost h-auto min-w-0 shrink grow flex-wrap justify-start gap-x-4 gap-y-0 px-2 py-2 text-left font-normal whitespace-normal"
          onclick={() => dialogs.show('song', song.id)}
        >
          <bdi class="min-w-0 text-lg font-semibold break-words">{song.title}</bdi>
          <span class="soft ml-auto text-right">{genre(song.genre)}, {song.bpm} BPM, {song.meter ?? '4/4'}</span>
        </button>
        {#if drumKit.kit?.tonight.song_id === song.id}
          <span class="badge badge-outline badge-primary">played now</span>
        {:else}
          <button class="btn btn-sm" onclick={() => void night.playNow(song.id)}>Play now</button>
        {/if}
      </li>
    {/each}
  </ul>
  {#if songs.length < all}<button class="btn mt-3" onclick={() => void find(true)}>Show more of {all}</button>{/if}
{/if}
{#if loaded}<SongEditor {songs} onkept={kept} />{/if}
<SongImport onkept={kept} />
