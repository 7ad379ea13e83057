<script lang="ts">
  // Where the data is and what takes room on the disk; copies, and old sound that may go.
  import { api, Refusal } from '../api/client';
  import type { Storage, Thinned, Thinning } from '../api/types';
  import { dataStatus } from './dataStatus.svelte';
  import { server } from './server.svelte';
  import { bytes, counted, when } from './figures';
  import Modal from './Modal.svelte';
  import { dialogs } from './dialogs.svelte';
  import NumberField from './NumberField.svelte';

  const WHY = {
    daily: 'of the day',
    before_update: 'before an update',
    before_fresh: 'before it was made anew',
    damaged: 'the damaged file',
  };
  const RULE: Thinning = { older_than_days: 90, strikes_kept: 2, daily: false };

  let storage = $state.raw<Storage>();
  let rule = $state<Thinning>({ ...RULE });
  let outlook = $state.raw<Thinned>();
  let busy = $state(false);
  /** What was done, or why it could not be: told here, for a dialog lies over the page's own messages. */
  let told = $state('');
  let refused = $state(false);

  const readOnly = $derived(dataStatus.status?.read_only ?? false);
  const most = $derived(Math.max(1, ...(storage?.room.drums.map((drum) => drum.sound_bytes) ?? [])));

  function begin() {
    storage = undefined;
    outlook = undefined;
    tell('');
    void read();
  }

  function tell(sentence: string, problem = false) {
    [told, refused] = [sentence, problem];
  }

  /** Does `work`; a refusal is told here, silence from the server is the page's matter. */
  async function attempt(work: () => Promise<unknown>): Promise<void> {
    await server.attempt(async () => {
      try {
        await work();
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        tell(error.message, true);
      }
    });
  }

  const read = () =>
    attempt(async () => {
      storage = await api.storage();
      rule = { ...(storage.thinning ?? rule) };
    });

  /** Does `work`, then shows what it left. */
  async function during(work: () => Promise<unknown>) {
    busy = true;
    tell('Working …');
    await attempt(async () => {
      await work();
      if (told === 'Working …') tell('');
    });
    busy = false;
    await read();
    await dataStatus.read();
  }

  const look = () => {
    tell('');
    return attempt(async () => (outlook = await api.wouldThin($state.snapshot(rule))));
  };

  const thin = () =>
    during(async () => {
      const gone = await api.thin($state.snapshot(rule));
      outlook = undefined;
      tell(`The sound of ${counted(gone.strikes, 'strike', 'strikes')} was let go: ${bytes(gone.bytes)}. Their figures are as before.`);
    });

  const setDaily = (daily: boolean) =>
    during(() => (daily ? api.setThinning({ ...$state.snapshot(rule), daily: true }) : api.forgetThinning()));

  const compact = () =>
    during(async () => {
      const before = storage?.room.file_bytes ?? 0;
      const room = await api.compact();
      tell(`The data file takes ${bytes(room.file_bytes)} now; it was ${bytes(before)}.`);
    });

  const copy = () => during(async () => (await api.copyNow(), tell('A copy was made.')));
</script>

<Modal open={dialogs.open === 'storage'} titleId="storage-title" width="max-w-3xl" onopen={begin} onclose={() => dialogs.close('storage')}>
  <h2 id="storage-title" class="mb-3 text-2xl">Storage</h2>
  {#if storage}
    {@const room = storage.room}
    <p>
      Everything you keep is in one file on this machine{storage.path ? ':' : ', in memory only: it is gone when Soft Ember stops.'}
      {#if storage.path}<span class="block text-sm break-all">{storage.path}</span>{/if}
    </p>
    <p class="my-3 text-lg">
      It takes <strong>{bytes(room.file_bytes)}</strong>{room.copies_bytes > 0
        ? `, its copies ${bytes(room.copies_bytes)}`
        : ''}{room.disk_free_bytes == null ? '.' : `; ${bytes(room.disk_free_bytes)} are free on the disk.`}
    </p>

    <h3 class="mt-4 mb-1 text-lg font-semibold">Sound of strikes, by drum</h3>
    {#if room.drums.length === 0}
      <p class="soft">No drums yet.</p>
    {/if}
    <ul class="grid gap-1">
      {#each room.drums as drum (drum.drum_id)}
        <li class="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 sm:grid-cols-[minmax(0,9rem)_1fr_10rem]">
          <span class="truncate" title={drum.name}>{drum.name}</span>
          <progress
            class="progress progress-primary max-sm:hidden"
            max={most}
            value={drum.sound_bytes}
            aria-label="Sound of the {drum.name}"
          ></progress>
          <span class="text-right whitespace-nowrap"
            >{bytes(drum.sound_bytes)} <span class="soft">in {counted(drum.takes, 'take', 'takes')}</span></span
          >
        </li>
      {/each}
    </ul>

    <h3 class="mt-5 mb-1 text-lg font-semibold">Let old sound go</h3>
    <p class="soft">
      Figures always stay, and so does the sound of what your plans start from and of each drum as it is now. What has gone cannot be heard
      or measured again.
    </p>
    <div class="my-2 flex flex-wrap items-end gap-4">
      <NumberField
        label="Takes older than, days"
        min={0}
        max={3650}
        width="w-32"
        bind:value={rule.older_than_days}
        oninput={() => (outlook = undefined)}
      />
      <NumberField
        label="Strikes of each that keep it"
        min={0}
        max={500}
        width="w-32"
        bind:value={rule.strikes_kept}
        oninput={() => (outlook = undefined)}
      />
      <button class="btn" disabled={busy || readOnly} onclick={() => void look()}>What would go?</button>
    </div>
    {#if outlook}
      {#if outlook.strikes === 0}
        <p role="status">Nothing: there is no such sound.</p>
      {:else}
        <p role="status">
          The sound of {counted(outlook.strikes, 'strike', 'strikes')}, {bytes(outlook.bytes)}. It cannot be brought back.
        </p>
        <button class="btn btn-error mt-2" disabled={busy} onclick={() => void thin()}>Let it go</button>
      {/if}
    {/if}
    <label class="mt-3 flex items-center gap-3">
      <input
        type="checkbox"
        class="toggle toggle-primary"
        checked={storage.thinning?.daily ?? false}
        disabled={busy || readOnly}
        onchange={(event) => void setDaily(event.currentTarget.checked)}
      />
      Do this by itself, once a day
    </label>

    <h3 class="mt-5 mb-1 text-lg font-semibold">Copies</h3>
    <p class="soft">
      One is made each day that something changed, and before each update. A few are kept, the older the fewer{storage.copies.length > 0
        ? `, beside the data file.`
        : '.'}
    </p>
    {#if storage.copies.length > 0}
      <ul class="my-2 grid gap-1">
        {#each storage.copies as one (one.path)}
          <li>{when(one.made_at)}, {WHY[one.reason]}, {bytes(one.bytes)} <span class="soft block text-xs break-all">{one.path}</span></li>
        {/each}
      </ul>
    {/if}
    <div class="mt-2 flex flex-wrap gap-3">
      <button class="btn" disabled={busy || !storage.path || readOnly} onclick={() => void copy()}>Make a copy now</button>
      <button class="btn" disabled={busy || !storage.path || readOnly} onclick={() => void compact()}>
        Make the file smaller{room.unused_bytes > 1e6 ? ` by ${bytes(room.unused_bytes)}` : ''}
      </button>
    </div>
    {#if dataStatus.status && dataStatus.status.damaged.length > 0}
      <h3 class="mt-5 mb-1 text-lg font-semibold">Cannot be read</h3>
      <p>{dataStatus.status.damaged.map((row) => `${row.what} ${row.id}`).join(', ')}</p>
    {/if}
  {:else}
    <p role="status">Looking …</p>
  {/if}
  <p class="mt-3 min-h-6 {refused ? 'text-error' : ''}" role={refused ? 'alert' : 'status'}>{told}</p>
  <form method="dialog" class="modal-action mt-0"><button class="btn btn-primary">Close</button></form>
</Modal>
