<script lang="ts">
  import { api } from '../api/client';
  import type { Drum, DrumKind, KeptDrum } from '../api/types';
  import { app } from '../shell/app.svelte';
  import { KINDS } from './standing';

  const USUAL: Record<DrumKind, Omit<Drum, 'name' | 'kind'>> = {
    snare: { diameter_in: 14, depth_in: 5.5, lugs: 10, batter: { film_mil: 10 }, lower: { film_mil: 3 } },
    tom: { diameter_in: 12, depth_in: 8, lugs: 6, batter: { film_mil: 10 }, lower: { film_mil: 10 } },
    floor_tom: { diameter_in: 16, depth_in: 16, lugs: 8, batter: { film_mil: 14 }, lower: { film_mil: 10 } },
    kick: { diameter_in: 22, depth_in: 16, lugs: 8, batter: { film_mil: 14 }, lower: { film_mil: 10 } },
  };

  let dialog: HTMLDialogElement;
  let id = $state<number>();
  let name = $state('');
  let kind = $state<DrumKind>('snare');
  let diameter = $state(14);
  let depth = $state(5.5);
  let lugs = $state(10);
  let batter = $state(10);
  let hasLower = $state(true);
  let lower = $state(10);
  let refused = $state('');
  let removing = $state(false);

  /** Opens for a drum, or for a new one. */
  export function open(drum?: KeptDrum) {
    id = drum?.id;
    name = drum?.name ?? '';
    kind = drum?.kind ?? 'snare';
    fill(drum ?? { ...USUAL[kind] });
    refused = '';
    removing = false;
    dialog.showModal();
  }

  function fill(drum: Omit<Drum, 'name' | 'kind'>) {
    diameter = drum.diameter_in;
    depth = drum.depth_in;
    lugs = drum.lugs;
    batter = drum.batter.film_mil;
    hasLower = drum.lower != null;
    lower = drum.lower?.film_mil ?? 10;
  }

  const lowerWord = $derived(kind === 'kick' ? 'Front head' : 'Lower head');

  async function save(event: SubmitEvent) {
    event.preventDefault();
    const drum: Drum = {
      name,
      kind,
      diameter_in: diameter,
      depth_in: depth,
      lugs,
      batter: { film_mil: batter },
      lower: hasLower ? { film_mil: lower } : null,
    };
    try {
      const kept = id === undefined ? await api.addDrum(drum) : await api.changeDrum(id, drum);
      dialog.close();
      await app.choose(kept.id);
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }

  async function remove() {
    const gone = id;
    if (gone === undefined) return;
    try {
      await api.removeDrum(gone);
      dialog.close();
      app.drumId = undefined;
      await app.load();
      app.notice(`${name} and its takes were removed.`);
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="drum-title">
  <div class="modal-box max-w-xl">
    <h2 id="drum-title" class="mb-4 text-2xl">{id === undefined ? 'A new drum' : 'Edit the drum'}</h2>
    <form class="grid gap-4 sm:grid-cols-2" onsubmit={(event) => void save(event)}>
      <label class="field sm:col-span-2">
        <span>Name</span>
        <input class="input w-full text-lg" bind:value={name} required maxlength="60" placeholder="What you call it" />
      </label>
      <fieldset class="sm:col-span-2">
        <legend class="soft mb-1">Kind</legend>
        <div class="flex flex-wrap gap-2">
          {#each Object.entries(KINDS) as [value, word] (value)}
            <label class="btn has-checked:btn-primary">
              <input
                type="radio"
                class="sr-only"
                name="kind"
                {value}
                checked={kind === value}
                onchange={() => {
                  kind = value as DrumKind;
                  if (id === undefined) fill(USUAL[kind]);
                }}
              />{word}
            </label>
          {/each}
        </div>
      </fieldset>
      <label class="field"
        ><span>Diameter, in</span><input
          class="input w-full"
          type="number"
          min="6"
          max="40"
          step="any"
          required
          bind:value={diameter}
        /></label
      >
      <label class="field"
        ><span>Depth, in</span><input class="input w-full" type="number" min="2" max="40" step="any" required bind:value={depth} /></label
      >
      <label class="field"
        ><span>Lugs</span><input class="input w-full" type="number" min="1" max="16" step="1" required bind:value={lugs} /></label
      >
      <label class="field">
        <span>Batter head, mil of film</span>
        <input class="input w-full" type="number" min="2" max="40" step="any" required bind:value={batter} aria-describedby="film-help" />
      </label>
      <label class="flex items-center gap-3 self-end py-2">
        <input type="checkbox" class="toggle toggle-primary" bind:checked={hasLower} />{lowerWord} on
      </label>
      {#if hasLower}
        <label class="field">
          <span>{lowerWord}, mil of film</span>
          <input class="input w-full" type="number" min="2" max="40" step="any" required bind:value={lower} aria-describedby="film-help" />
        </label>
      {/if}
      <p id="film-help" class="soft text-sm sm:col-span-2">
        1 mil is a thousandth of an inch. Usual: 10 for a single ply, 14 for a double one, 3 for the snare side.
      </p>
      {#if refused}<p class="text-error sm:col-span-2" role="alert">{refused}</p>{/if}
      <div class="flex flex-wrap items-center gap-2 sm:col-span-2">
        <button class="btn btn-primary">{id === undefined ? 'Add it' : 'Save'}</button>
        <button type="button" class="btn btn-ghost" onclick={() => dialog.close()}>Cancel</button>
        {#if id !== undefined && !removing}
          <button type="button" class="btn btn-ghost text-error ml-auto" onclick={() => (removing = true)}>Remove it …</button>
        {/if}
      </div>
      {#if removing}
        <div class="border-error rounded-box border p-3 sm:col-span-2">
          <p class="mb-2">This removes {name} with every take and treatment of it. It cannot be undone.</p>
          <button type="button" class="btn btn-error" onclick={() => void remove()}>Remove for good</button>
          <button type="button" class="btn btn-ghost" onclick={() => (removing = false)}>Keep it</button>
        </div>
      {/if}
    </form>
  </div>
  <form method="dialog" class="modal-backdrop"><button tabindex="-1" aria-label="Close">Close</button></form>
</dialog>

<style>
  .field {
    display: grid;
    gap: 0.25rem;
  }
</style>
