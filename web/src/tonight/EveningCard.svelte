<script lang="ts">
  // The evening on paper, black on white: one table, a song a line and a drum a column, that a deputy can follow.
  import type { Evening, EveningPlan } from '../api/types';
  import { called, gap } from './say';

  interface Props {
    evening: Evening;
    plan: EveningPlan;
    name: string;
    venue: string | undefined;
    /** The night, as it is written. */
    date: string | null | undefined;
  }
  let { evening, plan, name, venue, date }: Props = $props();

  const used = (drum: number) => [...new Set(plan.rows.map((row) => row.cells[drum]?.setup ?? 0))];
  const lookOf = (song: number) => {
    const look = plan.rows[song]?.look;
    return look != null && look !== plan.rows[song - 1]?.look && plan.looks.length > 1 ? plan.looks[look]?.name : undefined;
  };
</script>

<article class="card-page">
  <h2>{name}{venue ? `, ${venue}` : ''}{date ? `, ${date}` : ''}</h2>
  <table>
    <thead>
      <tr>
        <th scope="col">Song</th>
        <th scope="col">BPM</th>
        {#each evening.drums as drum (drum.drum_id)}<th scope="col">{drum.name}</th>{/each}
      </tr>
    </thead>
    <tbody>
      {#each evening.songs as song, at (song.entry)}
        {@const row = plan.rows[at]}
        {#if song.after_break}
          <tr class="break"><td colspan={evening.drums.length + 2}><bdi>{song.after_break}</bdi>, {gap(song.gap_s)}</td></tr>
        {/if}
        <tr>
          <th scope="row">
            <bdi>{song.song.title}</bdi>
            {#if lookOf(at)}<span class="small">{lookOf(at)} look</span>{/if}
            {#if row && row.over_s > 0}<span class="small">changing takes {gap(row.change_s)}; there are {gap(song.gap_s)}</span>{/if}
            {#if song.song.notes}<span class="small note">{song.song.notes}</span>{/if}
          </th>
          <td class="number">{song.song.bpm}</td>
          {#each row?.cells ?? [] as cell, drum (drum)}
            {@const setup = evening.drums[drum]?.setups[cell.setup]}
            <td class:changed={cell.change || (at === 0 && !cell.out)}>
              {#if cell.replaced_by}<strong>{cell.replaced_by.name}</strong>{:else if cell.out}<span aria-label="not played">–</span>
                {cell.change && setup ? called(setup) : ''}{:else if at === 0 || cell.change}{setup ? called(setup) : ''}{:else}<span
                  aria-label="as before">│</span
                >{/if}
            </td>
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="legend">
    Bold: change it before this song. A line: leave it as it is. A dash: not played; what stands beside it is changed meanwhile.
  </p>
  <section>
    <h3>Where everything goes</h3>
    <dl>
      {#each evening.drums as drum, index (drum.drum_id)}
        {#each used(index) as setup (setup)}
          {@const view = drum.setups[setup]}
          {#if view && view.devices.length > 0}
            <div>
              <dt>{drum.name}, {called(view)}</dt>
              <dd>{view.devices.join('; ')}</dd>
            </div>
          {/if}
        {/each}
      {/each}
    </dl>
  </section>
  <section>
    <h3>To pack</h3>
    <ul class="pack">
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
    size: A4 landscape;
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
      font-size: 11pt;
    }

    h2 {
      font-size: 16pt;
      margin-bottom: 2mm;
    }

    h3 {
      break-after: avoid;
      font-size: 12pt;
      margin-top: 4mm;
    }

    table {
      border-collapse: collapse;
      width: 100%;
    }

    thead {
      display: table-header-group;
    }

    tr {
      break-inside: avoid;
    }

    th,
    td {
      border-bottom: 0.2mm solid #777;
      padding: 0.7mm 2mm;
      text-align: start;
      vertical-align: top;
    }

    thead th {
      border-bottom: 0.5mm solid #000;
    }

    th[scope='row'] {
      font-size: 12pt;
      font-weight: 700;
      width: 30%;
    }

    .number {
      font-size: 12pt;
    }

    .changed {
      font-weight: 700;
    }

    .small {
      display: block;
      font-size: 9pt;
      font-weight: 400;
    }

    .note {
      font-style: italic;
    }

    .break td {
      background: #eee;
      font-weight: 600;
    }

    .legend {
      font-size: 9pt;
      margin-top: 1mm;
    }

    section {
      break-inside: avoid;
    }

    dl,
    .pack {
      columns: 2;
      column-gap: 8mm;
    }

    dl div {
      break-inside: avoid;
      margin-bottom: 1mm;
    }

    dt {
      font-weight: 700;
    }
  }
</style>
