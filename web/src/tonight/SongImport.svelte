<script lang="ts">
  import { api } from '../api/client';
  import type { ReadSong } from '../api/types';
  import { notices } from '../shell/notices.svelte';
  import { counted } from '../shell/figures';
  import { type Fate, ordered, possible, proposed, remark, taken } from './import';
  import { night } from './night.svelte';
  import { dialogs } from '../shell/dialogs.svelte';
  import Modal from '../shell/Modal.svelte';

  let { onkept }: { onkept: () => Promise<void> } = $props();

  const PAGE = 200;
  const WORDS: Record<Fate, string> = { add: 'add', replace: 'replace yours', skip: 'leave out' };

  let input = $state<HTMLInputElement>();
  let name = $state('');
  let rows = $state.raw<ReadSong[]>([]);
  let fates = $state<Fate[]>([]);
  let refused = $state('');
  let busy = $state(false);
  let onlyDoubtful = $state(false);
  let shown = $state(PAGE);
  /** The songs are put on tonight's set list too. */
  let onList = $state(false);

  const close = () => dialogs.close('song-list');

  function opened() {
    rows = [];
    fates = [];
    refused = '';
    name = '';
    shown = PAGE;
  }

  async function read(file: File | undefined) {
    if (!file) return;
    ({ name } = file);
    busy = true;
    refused = '';
    try {
      rows = await api.previewSongs(file);
      fates = rows.map(proposed);
      onlyDoubtful = rows.some((row) => remark(row) !== '');
      shown = PAGE;
    } catch (error) {
      rows = [];
      refused = error instanceof Error ? error.message : String(error);
    } finally {
      busy = false;
      // Gone with its place, if the user went on meanwhile.
      if (input) input.value = '';
    }
  }

  const doubtful = $derived(rows.map((row, index) => ({ row, index })).filter(({ row }) => remark(row) !== ''));
  const listed = $derived(onlyDoubtful ? doubtful : rows.map((row, index) => ({ row, index })));
  const count = $derived(taken(rows, fates).length);

  function all(fate: Fate) {
    fates = rows.map((row, index) => (remark(row) !== '' && possible(row).includes(fate) ? fate : (fates[index] ?? 'skip')));
  }

  async function putOnList(ids: number[]) {
    const list = night.setList;
    if (!list) return;
    const more = ids.map((song_id) => ({ kind: 'song' as const, song_id, gap_s: null, pins: [] }));
    await night.saveSetList({ entries: [...list.entries, ...more] }, `${counted(more.length, 'song', 'songs')} put on “${list.name}”.`);
  }

  async function take() {
    busy = true;
    refused = '';
    try {
      const ids = await api.importSongs(taken(rows, $state.snapshot(fates)));
      close();
      const left = rows.length - ids.length;
      notices.add(`${counted(ids.length, 'song', 'songs')} taken in${left > 0 ? `, ${left} left out` : ''}.`);
      // Said last, so that it is what can be undone.
      if (onList) await putOnList(ordered(rows, $state.snapshot(fates), ids));
      await onkept();
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    } finally {
      busy = false;
    }
  }
</script>

<Modal open={dialogs.open === 'song-list'} titleId="import-title" width="max-w-4xl" onopen={opened} onclose={close}>
  <h2 id="import-title" class="mb-2 text-2xl">Take in a list of songs</h2>
  <p class="mb-3">
    CSV with a first line that names the columns (title, bpm, and as far as known genre, meter, feel, snare_gap, tom_gap, floor_tom_gap,
    kick_gap, softest, hardest, school, notes), or JSON. Nothing is kept before you say so.
  </p>
  <input
    bind:this={input}
    class="file-input w-full"
    type="file"
    accept=".csv,.json,.txt,text/csv,application/json"
    aria-label="List of songs"
    disabled={busy}
    onchange={() => void read(input?.files?.[0])}
  />
  {#if busy}<progress class="progress progress-primary mt-3" aria-label="Progress"></progress>{/if}
  {#if refused}<p class="text-error mt-3" role="alert">{name}: {refused}</p>{/if}
  {#if rows.length > 0}
    <p class="mt-4 text-lg" role="status">
      {counted(rows.length, 'row', 'rows')} in {name}; {doubtful.length === 0
        ? 'all are new songs.'
        : doubtful.length === 1
          ? 'one of them needs a word from you.'
          : `${doubtful.length} of them need a word from you.`}
    </p>
    {#if doubtful.length > 0}
      <div class="my-2 flex flex-wrap items-center gap-2">
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="toggle toggle-primary" bind:checked={onlyDoubtful} />Show those only</label
        >
        <span class="soft sm:ml-auto">For all of those:</span>
        <button class="btn btn-sm" onclick={() => all('skip')}>leave out</button>
        <button class="btn btn-sm" onclick={() => all('add')}>add</button>
        <button class="btn btn-sm" onclick={() => all('replace')}>replace yours</button>
      </div>
    {/if}
    <ul class="border-base-300 max-h-96 overflow-y-auto border-y">
      {#each listed.slice(0, shown) as { row, index } (index)}
        <li class="border-base-300 flex flex-wrap items-center gap-x-3 border-b py-1 last:border-0">
          <span class="soft w-12 text-sm">{row.line}</span>
          <span class="min-w-0 grow">
            <bdi class="text-lg">{row.title || '(no title)'}</bdi>
            {#if row.song}<span class="soft text-sm">{row.song.bpm} BPM</span>{/if}
            {#if remark(row)}<span class="block {row.problem ? 'text-warning' : 'soft'}">{remark(row)}</span>{/if}
          </span>
          <select
            class="select select-sm w-40"
            aria-label="What to do with line {row.line}"
            value={fates[index]}
            onchange={(event) => (fates[index] = event.currentTarget.value as Fate)}
            disabled={!row.song}
          >
            {#each possible(row) as fate (fate)}<option value={fate}>{WORDS[fate]}</option>{/each}
          </select>
        </li>
      {/each}
    </ul>
    {#if listed.length > shown}
      <button class="btn btn-sm mt-2" onclick={() => (shown += PAGE)}>Show more of {listed.length}</button>
    {/if}
  {/if}
  {#if rows.length > 0 && night.setList}
    <label class="mt-3 flex items-center gap-2">
      <input type="checkbox" class="toggle toggle-primary" bind:checked={onList} />Put them on “{night.setList.name}” too, in this order,
      with those you have already
    </label>
  {/if}
  <div class="modal-action">
    {#if rows.length > 0}
      <button class="btn btn-primary" disabled={(count === 0 && !onList) || busy} onclick={() => void take()}
        >Take in {counted(count, 'song', 'songs')}</button
      >
    {/if}
    <form method="dialog"><button class="btn">Close</button></form>
  </div>
</Modal>
