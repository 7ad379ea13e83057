<script lang="ts">
  // One drum in one song: what is on it, why, and pinning it.
  import type { Evening, EveningPlan, Placement } from '../api/types';
  import { called, standing } from './say';

  interface Props {
    evening: Evening;
    plan: EveningPlan;
    pin: (entry: number, drumId: number, placements: Placement[] | undefined, said: string) => Promise<void>;
    setOut: (entry: number, drumId: number, out: boolean, said: string) => Promise<void>;
  }
  let { evening, plan, pin, setOut }: Props = $props();

  let dialog: HTMLDialogElement;
  let at = $state(0);
  let which = $state(0);

  export function show(song: number, drum: number) {
    at = song;
    which = drum;
    dialog.showModal();
  }

  const song = $derived(evening.songs[at]);
  const drum = $derived(evening.drums[which]);
  const cell = $derived(plan.rows[at]?.cells[which]);
  const now = $derived(cell && drum?.setups[cell.setup]);

  async function choose(setup: number | undefined) {
    if (!song || !drum) return;
    dialog.close();
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
    dialog.close();
    const said = `${drum.name} is ${isPlayed ? 'played' : 'not played'} in “${song.song.title}”.`;
    await setOut(song.entry, drum.drum_id, !isPlayed, said);
  }
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="cell-title">
  <div class="modal-box max-w-2xl">
    {#if song && drum && cell}
      <h2 id="cell-title" class="text-2xl">{drum.name} in <bdi>{song.song.title}</bdi></h2>
      <p class="soft mb-3">{song.genre}, {song.song.bpm} BPM, {song.song.meter ?? '4/4'}</p>
      {#if cell.out}
        <p class="text-lg">Not played in this song{now ? `; on it meanwhile: ${called(now)}` : ''}.</p>
        <button class="btn btn-primary mt-3" onclick={() => void play(true)}>It is played</button>
      {:else}
        <p class="text-lg">
          With {now ? called(now) : ''} on it: {standing(cell)}.
        </p>
        <button class="btn btn-sm mt-3" onclick={() => void play(false)}>It is not played in this song</button>
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
  </div>
  <form method="dialog" class="modal-backdrop"><button tabindex="-1" aria-label="Close">Close</button></form>
</dialog>
