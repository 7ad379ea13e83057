<script lang="ts">
  // Kits: which is played tonight, which drums stand in it, in which order, and which stay in their cases.
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import Group from '@lucide/svelte/icons/group';
  import Grip from '@lucide/svelte/icons/grip-vertical';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import type { KeptDrum, KitDrum, KitRow } from '../api/types';
  import { beginning } from '../beginning/beginning.svelte';
  import { inches } from '../shell/figures';
  import { night } from '../tonight/night.svelte';
  import { isMetal } from './kinds.svelte';
  import { kits } from './kits.svelte';
  import Modal from '../shell/Modal.svelte';
  import { dialogs } from '../shell/dialogs.svelte';

  let chosen = $state<number>();
  let adding = $state(false);
  let name = $state('');
  let borrowed = $state(false);
  /** What a new kit begins with: nothing, or a usual one. */
  let from = $state('');
  let cymbals = $state(true);
  let dragged = $state<number>();

  function opened() {
    chosen = undefined;
    adding = false;
    void kits.load();
    void beginning.load();
    void night.loadPlaces();
  }

  const all = $derived(kits.all);
  const kit = $derived<KitRow | undefined>(
    all?.kits.find((row) => row.id === chosen) ?? all?.kits.find((row) => row.tonight) ?? all?.kits[0],
  );
  const drumOf = (id: number) => all?.drums.find((row) => row.drum.id === id)?.drum;
  const rows = $derived((kit?.drums ?? []).filter((at) => drumOf(at.drum_id)));
  const others = $derived((all?.drums ?? []).filter((row) => !kit?.drums.some((at) => at.drum_id === row.drum.id)));

  const change = (make: (drums: KitDrum[]) => KitDrum[], said: string) =>
    kit && void kits.change(kit, ({ drums }) => ({ drums: make(drums.filter((at) => drumOf(at.drum_id))) }), said);

  const lend = (kit: KitRow, borrowed: boolean) =>
    kits.change(kit, () => ({ borrowed }), borrowed ? 'Not yours: nothing is opened, cut or left sticky.' : 'Your own kit.');

  const setUp = ({ id, name }: KeptDrum, up: boolean) =>
    change(
      (drums) => drums.map((each) => (each.drum_id === id ? { ...each, in_case: !up } : each)),
      up ? `The ${name} is set up.` : `The ${name} stays in its case.`,
    );

  /** Begins a group with a drum, names it, or lets it go on in the one before. */
  const nameGroup = (drum_id: number, group: string | null) =>
    change(
      (drums) => drums.map((each) => (each.drum_id === drum_id ? { ...each, group } : each)),
      group ? `From here on: ${group}.` : 'The group is gone; its drums stay.',
    );

  /** Puts a drum where another one stands. */
  function move(from: number, to: number) {
    const [moved, there] = [rows[from], rows[to]];
    if (!moved || !there || from === to) return;
    change((drums) => {
      const others = drums.filter((at) => at.drum_id !== moved.drum_id);
      const place = others.findIndex((at) => at.drum_id === there.drum_id);
      return others.toSpliced(to > from ? place + 1 : place, 0, moved);
    }, 'Moved.');
  }

  async function begin(event: SubmitEvent) {
    event.preventDefault();
    const usual = beginning.kits.find((each) => each.kit === from);
    if (await kits.begin({ name, drums: [], borrowed, venue_id: null }, usual, cymbals)) {
      adding = false;
      chosen = undefined;
    }
  }
</script>

<Modal open={dialogs.open === 'kits'} titleId="kits-title" width="max-w-3xl" onopen={opened} onclose={() => dialogs.close('kits')}>
  <h2 id="kits-title" class="mb-3 text-2xl">Your kits</h2>
  <div class="mb-4 flex flex-wrap gap-2" role="radiogroup" aria-label="Kit">
    {#each all?.kits ?? [] as row (row.id)}
      <button
        type="button"
        role="radio"
        aria-checked={row.id === kit?.id}
        class="btn h-auto py-2 {row.id === kit?.id ? 'btn-secondary' : ''}"
        onclick={() => {
          chosen = row.id;
          adding = false;
        }}
        ><bdi>{row.name}</bdi>{#if row.tonight}<span class="badge badge-sm badge-primary">tonight</span>{/if}</button
      >
    {/each}
    <button
      type="button"
      class="btn btn-outline"
      onclick={() => {
        adding = true;
        name = '';
        borrowed = false;
        from = '';
      }}><Plus class="size-5" aria-hidden="true" />Another kit</button
    >
  </div>
  {#if adding}
    <form class="border-base-300 rounded-box grid gap-3 border p-4" onsubmit={(event) => void begin(event)}>
      <label class="grid gap-1"
        ><span>Name</span><input
          class="input w-full text-lg"
          bind:value={name}
          required
          maxlength="60"
          placeholder="Travelling kit, or the club’s"
        /></label
      >
      <label class="grid gap-1"
        ><span>Begins with</span>
        <select class="select w-full" bind:value={from}>
          <option value="">nothing: I put drums in that I have</option>
          {#each beginning.kits as each (each.kit)}<option value={each.kit}>new drums: {each.name}</option>{/each}
        </select></label
      >
      {#if from}<label class="flex items-center gap-3"
          ><input type="checkbox" class="toggle toggle-primary" bind:checked={cymbals} />With cymbals</label
        >{/if}
      <label class="flex items-center gap-3"
        ><input type="checkbox" class="toggle toggle-primary" bind:checked={borrowed} />It is not mine: a club’s house kit, or a friend’s</label
      >
      {#if borrowed}<p class="soft">
          You are offered one thing for each drum, on within a minute. Nothing is opened, cut or left sticky.
        </p>{/if}
      <div class="flex gap-2">
        <button class="btn btn-primary">Begin it</button>
        <button type="button" class="btn btn-ghost" onclick={() => (adding = false)}>Cancel</button>
      </div>
    </form>
  {:else if kit}
    {@const here = kit}
    <div class="mb-3 flex flex-wrap items-end gap-3">
      <label class="grid grow gap-1">
        <span class="soft">Name</span>
        <input
          class="input w-full text-lg"
          maxlength="60"
          value={here.name}
          onchange={(event) => {
            const { value } = event.currentTarget;
            if (value.trim()) void kits.change(here, () => ({ name: value }), 'The kit has a new name.');
          }}
        />
      </label>
      {#if !here.tonight}<button class="btn btn-primary" onclick={() => void kits.play(here)}>Play on it tonight</button>{/if}
      {#if (all?.kits.length ?? 0) > 1}<button
          class="btn btn-ghost text-error"
          onclick={() => {
            chosen = undefined;
            void kits.remove(here);
          }}>Remove the kit</button
        >{/if}
    </div>
    <div class="mb-3 flex flex-wrap items-center gap-x-6 gap-y-2">
      <label class="flex items-center gap-3">
        <input
          type="checkbox"
          class="toggle toggle-primary"
          checked={here.borrowed}
          onchange={(event) => void lend(here, event.currentTarget.checked)}
        />It is not mine
      </label>
      {#if here.borrowed}
        <label class="flex items-center gap-3">
          <span>House kit of</span>
          <select
            class="select w-56"
            value={here.venue_id ?? ''}
            onchange={(event) => {
              const { value } = event.currentTarget;
              void kits.change(here, () => ({ venue_id: value === '' ? null : Number(value) }), 'Noted.');
            }}
          >
            <option value="">no venue</option>
            {#each night.venues as venue (venue.id)}<option value={venue.id}>{venue.name}</option>{/each}
          </select>
        </label>
      {/if}
    </div>
    <h3 class="text-lg">
      In playing order <span class="soft text-base">{here.words}{here.venue ? `, house kit of the ${here.venue}` : ''}</span>
    </h3>
    <ol class="mb-4" aria-label="Drums of the kit in playing order">
      {#each rows as at, index (at.drum_id)}
        {@const drum = drumOf(at.drum_id)}
        {#if drum}
          {#if at.group != null}
            <li class="mt-2 flex items-center gap-2">
              <input
                class="input input-sm w-48 font-semibold"
                maxlength="24"
                value={at.group}
                aria-label="Name of the group that begins with the {drum.name}"
                onchange={(event) => nameGroup(at.drum_id, event.currentTarget.value.trim() || null)}
              />
              <button class="btn btn-ghost btn-square btn-sm" aria-label="No group here" onclick={() => nameGroup(at.drum_id, null)}
                ><X class="size-5" aria-hidden="true" /></button
              >
            </li>
          {/if}
          <li
            class="border-base-300 flex items-center gap-x-3 border-b py-1 {dragged === index ? 'opacity-50' : ''}"
            draggable="true"
            ondragstart={() => (dragged = index)}
            ondragend={() => (dragged = undefined)}
            ondragover={(event) => event.preventDefault()}
            ondrop={(event) => {
              event.preventDefault();
              if (dragged !== undefined) move(dragged, index);
              dragged = undefined;
            }}
          >
            <Grip class="soft size-5 shrink-0 cursor-grab max-sm:hidden" aria-hidden="true" />
            <span class="min-w-0 grow text-lg break-words"
              ><bdi class={at.in_case ? 'soft' : ''}>{drum.name}</bdi>
              <span class="soft text-sm max-sm:hidden">{inches(drum.diameter_in)}</span></span
            >
            <label class="flex items-center gap-2 text-sm">
              <input
                type="checkbox"
                class="toggle toggle-sm"
                checked={!at.in_case}
                onchange={(event) => setUp(drum, event.currentTarget.checked)}
              /><span class="max-sm:sr-only">set up</span>
            </label>
            <span class="flex">
              <button
                class="btn btn-ghost btn-square btn-sm {at.group == null ? '' : 'invisible'}"
                aria-label="Begin a group with the {drum.name}"
                title="A group of the kit begins here"
                onclick={() => nameGroup(at.drum_id, isMetal(drum.kind) ? 'Cymbals' : 'Drums')}
                ><Group class="size-5" aria-hidden="true" /></button
              >
              <button
                class="btn btn-ghost btn-square btn-sm"
                disabled={index === 0}
                aria-label="{drum.name} up"
                onclick={() => move(index, index - 1)}><ArrowUp class="size-5" aria-hidden="true" /></button
              >
              <button
                class="btn btn-ghost btn-square btn-sm"
                disabled={index === rows.length - 1}
                aria-label="{drum.name} down"
                onclick={() => move(index, index + 1)}><ArrowDown class="size-5" aria-hidden="true" /></button
              >
              <button
                class="btn btn-ghost btn-square btn-sm"
                aria-label="{drum.name} out of this kit"
                onclick={() =>
                  change(
                    (drums) => drums.filter((each) => each.drum_id !== at.drum_id),
                    `The ${drum.name} is out of this kit. All that was measured on it stays.`,
                  )}><X class="size-5" aria-hidden="true" /></button
              >
            </span>
          </li>
        {/if}
      {:else}
        <li class="soft py-2">Nothing in it yet: put drums in from below, or add new ones in the strip.</li>
      {/each}
    </ol>
    {#if others.length > 0}
      <h3 class="mb-1 text-lg">Put in</h3>
      <div class="flex flex-wrap gap-2">
        {#each others as row (row.drum.id)}
          <button
            class="btn btn-sm h-auto py-1"
            onclick={() =>
              change(
                (drums) => [...drums, { drum_id: row.drum.id, in_case: false, group: null }],
                `The ${row.drum.name} is in the ${here.name}.`,
              )}
            ><Plus class="size-4" aria-hidden="true" /><bdi>{row.drum.name}</bdi>
            <span class="soft text-xs">{row.kits.length > 0 ? row.kits.join(', ') : 'in no kit'}</span></button
          >
        {/each}
      </div>
    {/if}
  {/if}
  <form method="dialog" class="mt-4"><button class="btn btn-primary">Done</button></form>
</Modal>
