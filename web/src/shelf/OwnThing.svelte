<script lang="ts">
  // What a thing of the player's own is: measured with a ruler, weighed on a kitchen scale.
  import type { ShelfDevice } from '../api/types';
  import { api } from '../api/client';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { deviceShelf } from './deviceShelf.svelte';
  import NumberField from '../shell/NumberField.svelte';

  let { item, done }: { item?: ShelfDevice | undefined; done: () => void } = $props();

  // The form starts from what is kept and then belongs to the player.
  // svelte-ignore state_referenced_locally
  const start = item;
  let name = $state<string>(start?.made?.name ?? '');
  let length = $state<number | null>(start?.made ? Math.round(1000 * start.made.length_m) / 10 : null);
  let width = $state<number | null>(start?.made ? Math.round(1000 * start.made.width_m) / 10 : null);
  let grams = $state<number | null>(start?.made ? Math.round(10000 * start.made.mass_kg) / 10 : null);
  let busy = $state(false);

  async function save(event: SubmitEvent) {
    event.preventDefault();
    busy = true;
    const thing = {
      name,
      length_m: (length ?? 0) / 100,
      width_m: (width ?? 0) / 100,
      mass_kg: (grams ?? 0) / 1000,
      count: start?.count ?? 1,
    };
    const kept = await server.attempt(async () => {
      const before = start?.made;
      const saved = start ? await api.changeOwn(start.kind, thing) : await api.addOwn(thing);
      notices.add(start ? `“${name.trim()}” is changed.` : `“${name.trim()}” is on the shelf.`, () =>
        before ? api.changeOwn(saved.kind, { ...before, count: thing.count }) : api.removeOwn(saved.kind),
      );
      await deviceShelf.read();
    });
    busy = false;
    if (kept) done();
  }
</script>

<form class="grid gap-3" onsubmit={(event) => void save(event)}>
  <label class="grid gap-1">
    Name
    <input class="input w-full" bind:value={name} maxlength="40" required placeholder="folded bandana" />
  </label>
  <div class="grid grid-cols-3 gap-3">
    <NumberField label="Length, cm" min={0.5} max={100} step={0.1} bind:value={length} />
    <NumberField label="Width, cm" min={0.5} max={100} step={0.1} bind:value={width} />
    <NumberField label="Weight, g" min={0.1} max={2000} step={0.1} bind:value={grams} />
  </div>
  <p class="soft text-sm">Lay it flat and measure it; weigh it on a kitchen scale. Folding and hanging it over the hoop are tried too.</p>
  <div class="flex flex-wrap gap-2">
    <button class="btn btn-secondary" disabled={busy}>{start ? 'Keep the change' : 'Put it on the shelf'}</button>
    <button type="button" class="btn btn-ghost" onclick={done}>Leave it</button>
  </div>
</form>
