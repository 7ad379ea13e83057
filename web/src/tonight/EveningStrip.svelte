<script lang="ts">
  // The evening from top to bottom, a ribbon for each drum: where it runs through, nothing is touched.
  import Check from '@lucide/svelte/icons/check';
  import Pin from '@lucide/svelte/icons/pin';
  import Wrench from '@lucide/svelte/icons/wrench';
  import type { Evening, EveningPlan } from '../api/types';
  import { drumKit } from '../kit/drumKit.svelte';
  import { dialogs } from '../shell/dialogs.svelte';
  import CellDialog from './CellDialog.svelte';
  import { night } from './night.svelte';
  import { called, gap, instead, standing } from './say';
  import { stage } from './stage.svelte';

  interface Props {
    evening: Evening;
    plan: EveningPlan;
  }
  let { evening, plan }: Props = $props();

  function words(drum: number, setup: number | undefined): string | undefined {
    const found = setup === undefined ? undefined : evening.drums[drum]?.setups[setup];
    return found && called(found);
  }
  const cellAt = (song: number, drum: number) => plan.rows[song]?.cells[drum];
  /** A ribbon begins here: other things are on the drum than in the song before. */
  const begins = (song: number, drum: number) => song === 0 || cellAt(song, drum)?.setup !== cellAt(song - 1, drum)?.setup;
  const ends = (song: number, drum: number) => song === plan.rows.length - 1 || cellAt(song, drum)?.setup !== cellAt(song + 1, drum)?.setup;
  const columns = $derived(`--drums: repeat(${evening.drums.length}, minmax(0, 1fr))`);
</script>

<div class="strip" style={columns}>
  <div class="line heads soft" aria-hidden="true">
    <span></span>
    {#each evening.drums as drum (drum.drum_id)}<span class="px-2">{drum.name}</span>{/each}
  </div>
  <ol>
    {#each evening.songs as song, at (song.entry)}
      {@const row = plan.rows[at]}
      <li>
        {#if song.after_break}
          <p class="soft border-base-300 mt-3 border-t pt-2"><bdi>{song.after_break}</bdi>, {gap(song.gap_s)}</p>
        {/if}
        {#if row && row.swaps.length > 0}
          <p class="mt-1 pl-3">
            {#each row.swaps as { on, off }, index (index)}<span class="mr-4">Swap: <strong>{on}</strong> for the {off}</span>{/each}
          </p>
        {/if}
        {#if row && row.missing.length > 0}<p class="text-warning">Not on your shelf: {row.missing.join(', ')}.</p>{/if}
        <div class="line">
          <div class="song {drumKit.kit?.tonight.song_id === song.song.id ? 'border-primary' : 'border-transparent'} border-l-4 pl-2">
            <button
              class="block min-h-8 w-full cursor-pointer text-left text-lg leading-tight"
              onclick={() => stage.begin(at)}
              title="Show on the stage view"
            >
              <bdi class="font-semibold">{song.song.title}</bdi>
            </button>
            <span class="soft block text-sm">{song.genre}, {song.song.bpm} BPM</span>
            {#if plan.looks.length > 1 && row?.look != null && row.look !== plan.rows[at - 1]?.look}
              <span class="badge badge-outline mt-1">{plan.looks[row.look]?.name} look</span>
            {/if}
            {#if row && row.change_s > 0}
              <span class="flex items-center gap-1 text-sm {row.over_s > 0 ? 'text-warning font-semibold' : ''}">
                <Wrench class="size-4 shrink-0" aria-hidden="true" />
                {#if at === 0}{gap(row.change_s)} before you begin
                {:else if row.over_s > 0}changing takes {gap(row.change_s)}, there are {gap(song.gap_s)}
                {:else}changing takes {gap(row.change_s)} of {gap(song.gap_s)}{/if}
              </span>
            {/if}
          </div>
          {#each row?.cells ?? [] as cell, drum (drum)}
            {@const name = evening.drums[drum]?.name}
            {@const on = words(drum, cell.setup)}
            <button
              class="cell {on === 'open' ? 'open' : 'on'}"
              class:begins={begins(at, drum)}
              class:ends={ends(at, drum)}
              class:out={cell.out}
              aria-label="{name} in {song.song.title}: {cell.replaced_by
                ? `${cell.replaced_by.name} plays in its place`
                : cell.out
                  ? 'not played'
                  : `${on ?? ''}, ${standing(cell)}`}{cell.pinned ? ', pinned' : ''}"
              onclick={() => dialogs.show('cell', `${song.entry}.${evening.drums[drum]?.drum_id}`)}
            >
              <span class="flex items-baseline gap-2">
                <span class="soft sm:hidden">{name}</span>
                <span class="setup" class:through={cell.out || !begins(at, drum)}
                  >{cell.replaced_by ? `${cell.replaced_by.name} plays` : cell.out ? 'not played' : on}</span
                >
                {#if cell.pinned}<Pin class="size-4 shrink-0 self-center" aria-hidden="true" />{/if}
              </span>
              {#if at > 0 && begins(at, drum)}<span class="soft text-sm"
                  >{cell.out ? `meanwhile ${on ?? ''}` : instead(words(drum, cellAt(at - 1, drum)?.setup), on)}</span
                >{/if}
              {#if cell.out}<!-- Nothing can be off. -->
              {:else if cell.fits}<Check class="text-success size-5 shrink-0" aria-hidden="true" />
              {:else}<span class="off text-sm leading-tight">{standing(cell)}</span>{/if}
            </button>
          {/each}
        </div>
      </li>
    {/each}
  </ol>
</div>
<CellDialog
  {evening}
  {plan}
  pin={(song, drum, placements, said) => night.pin(song, drum, placements, said)}
  setOut={(song, drum, out, said) => night.setOut(song, drum, out, said)}
  setInstead={(song, forId, drum, said) => night.setInstead(song, forId, drum, said)}
/>

<style>
  .line {
    column-gap: 0.5rem;
    display: grid;
    grid-template-columns: minmax(12rem, 1.3fr) var(--drums);
  }

  .song {
    padding-block: 0.4rem;
  }

  .cell {
    align-items: center;
    border-inline: 2px solid var(--color-neutral);
    cursor: pointer;
    display: flex;
    flex-wrap: wrap;
    gap: 0 0.5rem;
    justify-content: space-between;
    min-height: 2.75rem;
    padding: 0.2rem 0.6rem;
    text-align: left;
  }

  .cell.on {
    background: var(--color-base-300);
  }

  .cell.open {
    border-style: dashed;
  }

  .begins {
    border-top: 2px solid var(--color-neutral);
    border-start-end-radius: 0.5rem;
    border-start-start-radius: 0.5rem;
  }

  .ends {
    border-bottom: 2px solid var(--color-neutral);
    border-end-end-radius: 0.5rem;
    border-end-start-radius: 0.5rem;
  }

  .setup {
    font-weight: 600;
  }

  /* What runs through was named above. */
  .setup.through {
    color: var(--soft);
    font-weight: 400;
  }

  .cell.out {
    background: none;
    border-style: dotted;
  }

  .off {
    color: var(--color-warning);
  }

  @media (width < 40rem) {
    .line {
      display: block;
    }

    .heads {
      display: none;
    }

    .cell {
      border: 0;
      border-radius: 0.375rem;
      margin-block: 0.15rem;
      width: 100%;
    }

    .cell.open {
      border: 0;
      box-shadow: inset 0 0 0 1px var(--color-base-300);
    }

    .setup.through {
      color: inherit;
      font-weight: 600;
    }
  }
</style>
