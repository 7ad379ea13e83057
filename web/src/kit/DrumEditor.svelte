<script lang="ts">
  import { within } from '../shell/figures';
  import { api } from '../api/client';
  import type { Drum, DrumKind, Head, Hoops, Inside, KeptDrum, Port, Shell, Wires, WireTension } from '../api/types';
  import { view } from '../shell/view.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { drumKit } from './drumKit.svelte';
  import { load } from '../shell/load';
  import { notices } from '../shell/notices.svelte';
  import HeadFields from './HeadFields.svelte';
  import HoleFields from './HoleFields.svelte';
  import { head } from './heads';
  import { INSIDE } from './inside';
  import { hasHeads, isMetal, isUpright, kinds, otherHead } from './kinds.svelte';
  import Modal from '../shell/Modal.svelte';
  import { dialogs } from '../shell/dialogs.svelte';
  import NumberField from '../shell/NumberField.svelte';

  /** What is usual for kinds of which it is not obvious (common practice). */
  const HINTS: Partial<Record<DrumKind, string>> = {
    second_kick:
      'Clear heads, tuned low, the lower one a whole step to a third above. A ring inside and an upturned spare head on top make it short.',
    concert_tom:
      'Without its lower head, or with a mesh or a large hole in it: short and clear, the batter tuned higher. Bare lugs rattle: tape them.',
    concert_bass: 'Low and long, struck softly a little off the middle; hand and knee end its note.',
    marching_bass: 'Higher than a concert drum, struck with hard felt.',
    ride: 'Bow, bell and edge are measured each by itself: choose above its figures where you strike it.',
    hi_hat: 'Open, half open and closed are measured each by itself: choose above its figures.',
  };

  const SHELLS: Record<Shell, string> = { wood: 'Wood', metal: 'Metal', plastic: 'Plastic' };
  const HOOPS: Record<Hoops, string> = { pressed_metal: 'Pressed metal', cast_metal: 'Cast metal', wood: 'Wood' };
  const TENSIONS: Record<WireTension, string> = { loose: 'Loose', medium: 'Medium', tight: 'Tight' };

  let id = $state<number>();
  let name = $state('');
  let kind = $state<DrumKind>('snare');
  let diameter = $state(14);
  let depth = $state(5.5);
  let lugs = $state(10);
  let batter = $state<Head>(head(10));
  let closed = $state<'head' | 'mesh' | 'off'>('head');
  let ports = $state.raw<Port[]>([]);
  let lower = $state<Head>(head(10));
  let shell = $state<Shell>('wood');
  let hoops = $state<Hoops>('pressed_metal');
  let vents = $state(1);
  let wiresOn = $state(true);
  let wires = $state<Wires>({ strands: 20, tension: 'medium' });
  let refused = $state('');
  let weight = $state<number | null>(null);
  let removing = $state(false);
  let tooMuch: Drum['too_much'] = null;
  let playsAlong = $state(false);
  let ownWish: Drum['own_wish'] = null;
  let struck: Drum['struck'] = null;
  let inside = $state<Inside | ''>('');
  let secondShell = $state(false);

  const close = () => dialogs.close('new-drum', 'drum');

  /** For the drum looked at, or for a new one. */
  function opened() {
    const drum: KeptDrum | undefined = dialogs.open === 'drum' ? drumKit.drum?.drum : undefined;
    id = drum?.id;
    name = drum?.name ?? '';
    kind = drum?.kind ?? 'snare';
    begin(drum);
    refused = '';
    removing = false;
  }

  /** From the drum as it is, or from what one of its kind usually is. */
  function begin(drum?: Drum) {
    const known = drum ?? kinds.of(kind)?.usual;
    if (known) fill(known);
  }

  function fill(drum: Omit<Drum, 'name' | 'kind'>) {
    diameter = drum.diameter_in;
    depth = drum.depth_in;
    lugs = drum.lugs;
    batter = { ...drum.batter };
    closed = drum.lower == null ? 'off' : drum.lower_mesh ? 'mesh' : 'head';
    ports = drum.ports;
    lower = { ...(drum.lower ?? head(10)) };
    ({ shell, hoops, vents } = drum);
    weight = drum.weight_g ?? null;
    tooMuch = drum.too_much ?? null;
    playsAlong = drum.plays_along;
    ownWish = drum.own_wish ?? null;
    struck = drum.struck ?? null;
    inside = drum.inside ?? '';
    secondShell = drum.second_shell;
    wiresOn = drum.wires != null;
    wires = { ...(drum.wires ?? { strands: 20, tension: 'medium' }) };
  }

  const lowerWord = $derived(otherHead(kind));
  const heads = $derived(hasHeads(kind));

  async function save(event: SubmitEvent) {
    event.preventDefault();
    const drum: Drum = {
      name,
      kind,
      diameter_in: diameter,
      depth_in: depth,
      lugs,
      batter,
      lower: closed === 'off' ? null : lower,
      lower_mesh: closed === 'mesh',
      ports: closed === 'head' ? ports : [],
      shell,
      hoops,
      vents,
      wires: kind === 'snare' && wiresOn ? wires : null,
      // A number field that was emptied gives an empty text.
      weight_g: hasHeads(kind) || !weight ? null : weight,
      too_much: isMetal(kind) ? tooMuch : null,
      plays_along: playsAlong,
      own_wish: ownWish,
      // Another kind of cymbal is struck in other ways.
      struck: kinds.of(kind)?.ways_to_strike.some((way) => way.struck === struck) ? struck : null,
      inside: hasHeads(kind) && inside ? inside : null,
      second_shell: isUpright(kind) && secondShell,
    };
    try {
      const kept = id === undefined ? await api.addDrum(drum) : await api.changeDrum(id, drum);
      close();
      // A new one is hit next, wherever it was added.
      if (id === undefined) view.atDrum();
      await workbench.choose(kept.id);
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }

  async function remove() {
    const gone = id;
    if (gone === undefined) return;
    try {
      await api.removeDrum(gone);
      close();
      drumKit.drumId = undefined;
      await load();
      notices.add(`${name} and its takes were removed.`);
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }
</script>

<Modal open={dialogs.open === 'new-drum' || dialogs.open === 'drum'} titleId="drum-title" width="max-w-2xl" onopen={opened} onclose={close}>
  <h2 id="drum-title" class="mb-4 text-2xl">{id === undefined ? 'A new drum' : 'Edit the drum'}</h2>
  <form class="grid gap-4 sm:grid-cols-2" onsubmit={(event) => void save(event)}>
    <label class="field sm:col-span-2">
      <span>Name</span>
      <input class="input w-full text-lg" bind:value={name} required maxlength="60" placeholder="What you call it" />
    </label>
    <fieldset class="sm:col-span-2">
      <legend class="soft mb-1">Kind</legend>
      <div class="flex flex-wrap gap-2">
        {#each kinds.all as info (info.kind)}
          <label class="btn has-checked:btn-primary">
            <input
              type="radio"
              class="sr-only"
              name="kind"
              value={info.kind}
              checked={kind === info.kind}
              onchange={() => {
                kind = info.kind;
                if (id === undefined) begin();
              }}
            />{info.name}
          </label>
        {/each}
      </div>
      {#if HINTS[kind]}<p class="soft mt-2">{HINTS[kind]}</p>{/if}
    </fieldset>
    <div class="grid grid-cols-3 gap-3 sm:col-span-2">
      <NumberField label="Diameter, in" min={6} max={42} bind:value={diameter} />
      {#if !heads}
        <NumberField
          label={kind === 'hi_hat' ? 'Weight of the upper one, g' : isMetal(kind) ? 'Weight, g' : 'Weight of what moves, g'}
          min={10}
          max={10000}
          empty="if you know it"
          field="col-span-2"
          bind:value={weight}
        />
      {:else}
        <NumberField label="Depth, in" min={2} max={40} bind:value={depth} />
        <NumberField label="Lugs" min={1} max={16} step={1} bind:value={lugs} />{/if}
    </div>
    {#if !heads}
      <p class="soft sm:col-span-2">
        {isMetal(kind)
          ? 'A cymbal has too many tones to tell apart: it is measured by octaves. Its weight, from a kitchen scale, makes what is expected surer.'
          : 'Nothing is assumed about how it moves: what things do on it is learned from your own tests, the first of which is a guess.'}
      </p>
    {:else}
      <div class="grid gap-3 sm:col-span-2">
        <HeadFields legend="Batter head" bind:head={batter} />
        <label class="flex flex-wrap items-center gap-3 py-1">
          {lowerWord}
          <select class="select w-40" bind:value={closed}>
            <option value="head">on</option><option value="mesh">a mesh</option><option value="off">off</option>
          </select>
        </label>
        {#if closed === 'head'}<HoleFields bind:ports {diameter} head={within(lowerWord)} />{/if}
        {#if closed === 'head'}<HeadFields legend={lowerWord} bind:head={lower} />{/if}
        <div class="flex flex-wrap items-center gap-x-6 gap-y-2">
          <label class="flex flex-wrap items-center gap-3 py-1">
            <span>Always inside</span>
            <select class="select w-48" bind:value={inside}>
              <option value="">nothing</option>
              {#each Object.entries(INSIDE) as [value, word] (value)}<option {value}>{word}</option>{/each}
            </select>
          </label>
          {#if isUpright(kind)}
            <label class="flex items-center gap-3 py-1">
              <input type="checkbox" class="toggle toggle-primary" bind:checked={secondShell} />A second shell stands in front
            </label>
          {/if}
        </div>
        {#if inside || secondShell}<p class="soft text-sm">
            It is measured like this, and each state keeps its own takes: take it out, and the drum is to be hit again.
          </p>{/if}
        <p class="soft text-sm">
          1 mil is a thousandth of an inch. Usual: 10 for a single ply, 14 for both of a double one, 3 for the snare side. When another head
          goes on, say so in Tune: its history begins there.
        </p>
      </div>
    {/if}
    {#if kind === 'snare'}
      <fieldset class="border-base-300 rounded-box flex min-w-0 flex-wrap items-end gap-4 border p-3 sm:col-span-2">
        <legend class="px-1">Snare wires</legend>
        <label class="flex items-center gap-3 py-2">
          <input type="checkbox" class="toggle toggle-primary" bind:checked={wiresOn} />On
        </label>
        {#if wiresOn}
          <NumberField label="Strands" min={1} max={60} step={1} field="w-28" bind:value={wires.strands} />
          <label class="field w-40"
            ><span>Tension</span><select class="select w-full" bind:value={wires.tension}>
              {#each Object.entries(TENSIONS) as [value, word] (value)}<option {value}>{word}</option>{/each}
            </select></label
          >
        {/if}
      </fieldset>
    {/if}
    {#if heads}<details class="sm:col-span-2">
        <summary class="soft">Shell, hoops, air vents</summary>
        <div class="mt-2 grid gap-4 sm:grid-cols-3">
          <label class="field"
            ><span>Shell</span><select class="select w-full" bind:value={shell}>
              {#each Object.entries(SHELLS) as [value, word] (value)}<option {value}>{word}</option>{/each}
            </select></label
          >
          <label class="field"
            ><span>Hoops</span><select class="select w-full" bind:value={hoops}>
              {#each Object.entries(HOOPS) as [value, word] (value)}<option {value}>{word}</option>{/each}
            </select></label
          >
          <NumberField label="Air vents" min={0} max={20} step={1} bind:value={vents} />
        </div>
        <p class="soft mt-2 text-sm">Vents count in what the two heads do together. Shell and hoops are noted; no figure rests on them.</p>
      </details>{/if}
    <label class="flex items-center gap-3 sm:col-span-2">
      <input type="checkbox" class="toggle toggle-primary" bind:checked={playsAlong} />It plays along, and is neither measured nor muffled
    </label>
    {#if refused}<p class="text-error sm:col-span-2" role="alert">{refused}</p>{/if}
    <div class="flex flex-wrap items-center gap-2 sm:col-span-2">
      <button class="btn btn-primary">{id === undefined ? 'Add it' : 'Save'}</button>
      <button type="button" class="btn btn-ghost" onclick={() => close()}>Cancel</button>
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
</Modal>

<style>
  .field {
    display: grid;
    gap: 0.25rem;
  }
</style>
