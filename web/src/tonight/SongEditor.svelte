<script lang="ts">
  import { api } from '../api/client';
  import type { KeptSong, NoteValue, Song } from '../api/types';
  import { drumKit } from '../kit/drumKit.svelte';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { playedTonight } from './playedTonight.svelte';
  import { NOTES } from './say';
  import { TapTempo } from './tapTempo';
  import { without } from './without';
  import { dialogs } from '../shell/dialogs.svelte';
  import Modal from '../shell/Modal.svelte';

  interface Props {
    /** The songs that are listed; one that is not among them is asked for. */
    songs: KeptSong[];
    onkept: () => Promise<void>;
  }
  let { songs, onkept }: Props = $props();

  const DRUMS = { snare: 'Snare', tom: 'Toms', floor_tom: 'Floor tom', kick: 'Kick' } as const;
  const PLAIN: Song = {
    title: '',
    genre: 'general',
    bpm: 112,
    meter: '4/4',
    feel: 'straight',
    gaps: {},
    dynamics: { softest: 'medium', hardest: 'medium' },
    school: null,
    notes: '',
  };
  const DYNAMICS = ['soft', 'medium', 'hard'] as const;

  let id = $state<number>();
  let song = $state<Song>({ ...PLAIN });
  let gaps = $state<Record<keyof typeof DRUMS, NoteValue | ''>>({ snare: '', tom: '', floor_tom: '', kick: '' });
  let refused = $state('');
  const taps = new TapTempo();

  const close = () => dialogs.close('song');

  /** For the song that the dialog is about, or for a new one. */
  function opened() {
    const of = dialogs.of === undefined ? undefined : Number(dialogs.of);
    const listed = songs.find((each) => each.id === of);
    show(listed);
    if (of === undefined || listed) return;
    id = of;
    void server.attempt(async () => show(await api.song(of))).then((isThere) => isThere || close());
  }

  function show(kept: KeptSong | undefined) {
    id = kept?.id;
    const content: Song = kept
      ? without(kept, 'id')
      : { ...PLAIN, genre: drumKit.kit?.tonight.genre ?? 'general', bpm: drumKit.kit?.tonight.bpm ?? 112 };
    song = { ...PLAIN, ...content, dynamics: { ...(content.dynamics ?? { softest: 'medium', hardest: 'medium' }) } };
    const of = content.gaps ?? {};
    gaps = { snare: of.snare ?? '', tom: of.tom ?? '', floor_tom: of.floor_tom ?? '', kick: of.kick ?? '' };
    refused = '';
    taps.clear();
  }

  function tap() {
    song.bpm = taps.tap(performance.now()) ?? song.bpm;
  }

  async function save(event: SubmitEvent) {
    event.preventDefault();
    const none = (value: NoteValue | '') => (value === '' ? null : value);
    const whole: Song = {
      ...$state.snapshot(song),
      gaps: { snare: none(gaps.snare), tom: none(gaps.tom), floor_tom: none(gaps.floor_tom), kick: none(gaps.kick) },
    };
    try {
      if (id === undefined) await api.addSong(whole);
      else await api.changeSong(id, whole);
      close();
      await onkept();
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }

  async function remove() {
    const gone = id;
    if (gone === undefined) return;
    close();
    await server.attempt(async () => {
      await api.removeSong(gone);
      notices.add(`“${song.title}” was removed.`, async () => {
        await api.bringBackSong(gone);
        await onkept();
      });
      await onkept();
    });
  }
</script>

<Modal open={dialogs.open === 'song'} titleId="song-title" width="max-w-2xl" onopen={opened} onclose={close}>
  <h2 id="song-title" class="mb-4 text-2xl">{id === undefined ? 'A new song' : 'Edit the song'}</h2>
  <form class="grid gap-4 sm:grid-cols-2" onsubmit={(event) => void save(event)}>
    <label class="grid gap-1 sm:col-span-2">
      <span>Title</span>
      <input class="input w-full text-lg" bind:value={song.title} required maxlength="120" dir="auto" />
    </label>
    <label class="grid gap-1">
      <span>Genre</span>
      <select class="select w-full" bind:value={song.genre}>
        {#each playedTonight.genres as genre (genre.code)}<option value={genre.code}>{genre.said_name}</option>{/each}
      </select>
    </label>
    <div class="grid gap-1">
      <label for="song-bpm">Tempo, BPM</label>
      <div class="flex gap-2">
        <input id="song-bpm" class="input w-full" type="number" min="30" max="300" step="any" required bind:value={song.bpm} />
        <button type="button" class="btn" onclick={tap}>Tap</button>
      </div>
    </div>
    <label class="grid gap-1">
      <span>Meter</span>
      <input class="input w-full" bind:value={song.meter} required list="meters" />
      <datalist id="meters"
        ><option value="4/4"></option><option value="3/4"></option><option value="6/8"></option><option value="12/8"></option></datalist
      >
    </label>
    <label class="grid gap-1">
      <span>Feel</span>
      <select class="select w-full" bind:value={song.feel}>
        <option value="straight">straight</option>
        <option value="swung">swung</option>
      </select>
    </label>
    <label class="grid gap-1">
      <span>Softest</span>
      <select
        class="select w-full"
        value={song.dynamics?.softest}
        onchange={(event) => song.dynamics && (song.dynamics.softest = event.currentTarget.value as never)}
      >
        {#each DYNAMICS as dynamic (dynamic)}<option value={dynamic}>{dynamic}</option>{/each}
      </select>
    </label>
    <label class="grid gap-1">
      <span>Hardest</span>
      <select
        class="select w-full"
        value={song.dynamics?.hardest}
        onchange={(event) => song.dynamics && (song.dynamics.hardest = event.currentTarget.value as never)}
      >
        {#each DYNAMICS as dynamic (dynamic)}<option value={dynamic}>{dynamic}</option>{/each}
      </select>
    </label>
    <label class="grid gap-1">
      <span>School</span>
      <select
        class="select w-full"
        value={song.school ?? ''}
        onchange={(event) => (song.school = (event.currentTarget.value || null) as never)}
      >
        <option value="">as the genre has it</option>
        <option value="open">open: drums sing</option>
        <option value="controlled">controlled: one small device a drum</option>
        <option value="dead">dead: close and dry</option>
      </select>
    </label>
    <fieldset class="sm:col-span-2">
      <legend class="mb-1">Shortest gap between two hits</legend>
      <div class="grid grid-cols-2 gap-3 sm:grid-cols-4">
        {#each Object.entries(DRUMS) as [drum, word] (drum)}
          <label class="grid gap-1">
            <span class="soft">{word}</span>
            <select class="select w-full" bind:value={gaps[drum as keyof typeof DRUMS]}>
              <option value="">as usual</option>
              {#each Object.entries(NOTES) as [note, name] (note)}<option value={note}>{name}</option>{/each}
            </select>
          </label>
        {/each}
      </div>
    </fieldset>
    <label class="grid gap-1 sm:col-span-2">
      <span>Notes</span>
      <textarea class="textarea w-full" rows="2" maxlength="2000" bind:value={song.notes} dir="auto"></textarea>
    </label>
    {#if refused}<p class="text-error sm:col-span-2" role="alert">{refused}</p>{/if}
    <div class="flex flex-wrap gap-2 sm:col-span-2">
      <button class="btn btn-primary">{id === undefined ? 'Add it' : 'Save'}</button>
      <button type="button" class="btn btn-ghost" onclick={close}>Cancel</button>
      {#if id !== undefined}<button type="button" class="btn btn-ghost text-error ml-auto" onclick={() => void remove()}>Remove it</button
        >{/if}
    </div>
  </form>
</Modal>
