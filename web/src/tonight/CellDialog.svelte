<script lang="ts">
  // One drum in one song: what is on it, why, and pinning it.
  import type { Evening, EveningPlan, Placement } from '../api/types';
  import { called, standing } from './say';
  import { dialogs } from '../shell/dialogs.svelte';
  import Modal from '../shell/Modal.svelte';

  interface Props {
    evening: Evening;
    plan: EveningPlan;
    pin: (entry: number, drumId: number, placements: Placement[] | undefined, said: string) => Promise<void>;
    setOut: (entry: number, drumId: number, out: boolean, said: string) => Promise<void>;
    setInstead: (entry: number, forId: number, drumId: number | undefined, said: string) => Promise<void>;
  }
  let { evening, plan, pin, setOut, setInstead }: Props = $props();

  const close = () => dialogs.close('cell');

  const isOpen = $derived(dialogs.open === 'cell');
  /** What the dialog is about: the song's line in the set list and the drum's number. They stay when it closes, for what its last press set off. */
  const [line, id] = $derived((dialogs.of ?? '').split('.').map(Number));
  const at = $derived(evening.songs.findIndex((each) => each.entry === line));
  const which = $derived(evening.drums.findIndex((each) => each.drum_id === id));
  const song = $derived(evening.songs[at]);
  const drum = $derived(evening.drums[which]);
  const cell = $derived(plan.rows[at]?.cells[which]);
  const now = $derived(cell && drum?.setups[cell.setup]);
  /** What stays in its case and could be played in its place: other drums of its kind that do not stand in for another one already. */
  const spares = $derived(
    evening.in_cases.filter(
      (spare) =>
        spare.kind === drum?.kind &&
        spare.drum_id !== drum.drum_id &&
        plan.rows[at]?.cells.every((cell) => cell.replaced_by?.drum_id !== spare.drum_id),
    ),
  );

  async function swap(forId: number | undefined, drumId: number | undefined, said: string) {
    if (!song || forId === undefined) return;
    close();
    await setInstead(song.entry, forId, drumId, said);
  }

  async function choose(setup: number | undefined) {
    if (!song || !drum) return;
    close();
    const chosen = setup === undefined ? undefined : drum.setups[setup];
    const placements = chosen?.placements;
    const said =
      setup === undefined
        ? `${drum.name} is free again in “${song.song.title}”.`
        : `${drum.name} stays ${chosen ? called(chosen) : ''} in “${song.song.title}”.`;
    await pin(song.entry, drum.drum_id, placements, said);
  }

  async function play(isPlayed: boolean) {
    if (!song || !drum) return;
    close();
    const said = `${drum.name} is ${isPlayed ? 'played' : 'not played'} in “${song.song.title}”.`;
    await setOut(song.entry, drum.drum_id, !isPlayed, said);
  }
</script>

<Modal open={isOpen} titleId="cell-title" width="max-w-2xl" onopen={() => cell ?? dialogs.missing('cell')} onclose={close}>
  {#if song && drum && cell}
    <h2 id="cell-title" class="text-2xl">{drum.name} in <bdi>{song.song.title}</bdi></h2>
    <p class="soft mb-3">{song.genre}, {song.song.bpm} BPM, {song.song.meter ?? '4/4'}</p>
    {#if cell.replaced_by}
      <p class="text-lg">The {cell.replaced_by.name} is played in its place.</p>
      <button
        class="btn btn-primary mt-3"
        onclick={() => void swap(drum.drum_id, undefined, `${drum.name} is played again in “${song.song.title}”.`)}
        >Play the {drum.name} itself</button
      >
    {:else if cell.out}
      <p class="text-lg">Not played in this song{now ? `; on it meanwhile: ${called(now)}` : ''}.</p>
      <button class="btn btn-primary mt-3" onclick={() => void play(true)}>It is played</button>
    {:else}
      <p class="text-lg">
        With {now ? called(now) : ''} on it: {standing(cell)}.
      </p>
      {#if cell.stands_in_for}<p>It is played in the place of the {cell.stands_in_for.name}.</p>{/if}
      <div class="mt-3 flex flex-wrap gap-2">
        {#if cell.stands_in_for}
          <button
            class="btn btn-sm"
            onclick={() =>
              void swap(cell.stands_in_for?.drum_id, undefined, `${cell.stands_in_for?.name} is played again in “${song.song.title}”.`)}
            >Put it back into its case</button
          >
        {:else}
          <button class="btn btn-sm" onclick={() => void play(false)}>Leave it out of this song</button>
          {#each spares as spare (spare.drum_id)}
            <button
              class="btn btn-sm"
              onclick={() => void swap(drum.drum_id, spare.drum_id, `${spare.name} in place of ${drum.name} in “${song.song.title}”.`)}
              >Play the {spare.name} in its place</button
            >
          {/each}
        {/if}
      </div>
    {/if}
    {#if cell.room}<p class="border-info mt-2 border-l-4 pl-3">{cell.room}</p>{/if}
    <h3 class="mt-4 mb-2 text-lg">{cell.pinned ? 'It is pinned to this. Choose another, or free it:' : 'Let this song stay with'}</h3>
    <ul class="grid gap-2">
      {#each drum.setups as setup, index (index)}
        <li>
          <button
            class="btn btn-block h-auto justify-start py-2 text-left font-normal {cell.setup === index ? 'border-primary' : ''}"
            aria-current={cell.setup === index ? 'true' : undefined}
            onclick={() => void choose(index)}
          >
            <span>
              <span class="text-lg font-semibold">{called(setup)}</span>
              {#if setup.name}<span class="soft">{setup.words}</span>{/if}
              {#if setup.measured}<span class="soft">measured like this</span>{/if}
              {#each setup.devices as device, number (number)}<span class="soft block text-sm">{device}</span>{/each}
            </span>
          </button>
        </li>
      {/each}
    </ul>
    <div class="modal-action">
      {#if cell.pinned}<button class="btn btn-primary" onclick={() => void choose(undefined)}>Free it</button>{/if}
      <form method="dialog"><button class="btn">Close</button></form>
    </div>
  {/if}
</Modal>
