<script lang="ts">
  // The evening on paper: A5, black on white, read from a music stand.
  import type { Evening, EveningPlan } from '../api/types';
  import { gap } from './say';

  interface Props {
    evening: Evening;
    plan: EveningPlan;
    name: string;
    venue: string | undefined;
  }
  let { evening, plan, name, venue }: Props = $props();

  const shown = (drum: number, setup: number) => evening.drums[drum]?.setups[setup];
</script>

<article class="card-page">
  <h2>{name}{venue ? `, ${venue}` : ''}</h2>
  <ol>
    {#each evening.songs as song, at (song.entry)}
      {@const row = plan.rows[at]}
      {#if song.after_break}<li class="break"><bdi>{song.after_break}</bdi>, {gap(song.gap_s)}</li>{/if}
      <li>
        <p class="title"><bdi>{song.song.title}</bdi> <span>{song.song.bpm}</span></p>
        {#each row?.cells ?? [] as cell, drum (drum)}
          {#if cell.change}
            <p class="change">
              <strong>{evening.drums[drum]?.name}</strong>
              {#if cell.change.take_off}<span class="block">− {cell.change.take_off}</span>{/if}
              {#each cell.change.put_on as thing, number (number)}<span class="block">+ {thing}</span>{/each}
            </p>
          {/if}
        {/each}
        {#if row && row.over_s > 0}<p class="change">Takes {gap(row.change_s)}; there are {gap(song.gap_s)}.</p>{/if}
        {#if song.song.notes}<p class="note">{song.song.notes}</p>{/if}
      </li>
    {/each}
  </ol>
  <section>
    <h3>At the end</h3>
    <ul>
      {#each evening.drums as drum, index (drum.drum_id)}
        {@const last = plan.rows.at(-1)?.cells[index]}
        {#if last}<li>{drum.name}: {shown(index, last.setup)?.words}</li>{/if}
      {/each}
    </ul>
    <h3>To pack</h3>
    <ul>
      {#each plan.packing as thing (thing.thing)}<li>☐ {thing.count ? `${thing.count} × ` : ''}{thing.thing}</li>{/each}
    </ul>
  </section>
</article>

<style>
  .card-page {
    display: none;
  }

  @page evening {
    margin: 9mm;
    size: A5;
  }

  @media print {
    /* Named for the whole page: a name for the card alone would leave an empty sheet before it. */
    :global(body:has(.card-page)) {
      page: evening;
    }

    :global(main:has(.card-page)) {
      padding: 0 !important;
    }

    .card-page {
      break-inside: auto;
      color: #000;
      display: block;
      font-size: 12pt;
    }

    section ul {
      break-inside: avoid;
    }

    h2 {
      font-size: 18pt;
      margin-bottom: 3mm;
    }

    h3 {
      break-after: avoid;
      font-size: 13pt;
      margin-top: 4mm;
    }

    ol > li {
      border-top: 0.3mm solid #000;
      break-inside: avoid;
      padding-block: 1.5mm;
    }

    .title {
      display: flex;
      font-size: 17pt;
      font-weight: 700;
      justify-content: space-between;
      line-height: 1.15;
    }

    .change {
      font-size: 12pt;
      padding-inline-start: 4mm;
    }

    .block {
      display: block;
      padding-inline-start: 4mm;
    }

    .note {
      font-style: italic;
    }

    .break {
      font-weight: 600;
      text-align: center;
    }
  }
</style>
