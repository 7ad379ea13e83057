<script lang="ts">
  // Every figure of the decay profile, open beside found, with the scatter between strikes.
  import type { Bench, DecayProfile } from '../api/types';
  import { cents, decibels, hertz, percent, seconds } from '../shell/figures';

  let { bench }: { bench: Bench } = $props();

  type Show = (value: number | null | undefined) => string;
  const FIGURES: { name: string; key: keyof DecayProfile; show: Show }[] = [
    { name: 'Body pitch', key: 'body_hz', show: hertz },
    { name: 'Body falls 60 dB in', key: 'body_t60_s', show: seconds },
    { name: 'Ring pitch', key: 'ring_hz', show: hertz },
    { name: 'Ring falls 60 dB in', key: 'ring_t60_s', show: seconds },
    { name: 'Overtones, 80 to 400 ms', key: 'ring_share', show: percent },
    { name: 'All falls 20 dB in', key: 'fall_20_s', show: seconds },
    { name: 'All falls 40 dB in', key: 'fall_40_s', show: seconds },
    { name: 'Attack index', key: 'attack_index_db', show: decibels },
    { name: 'Glide', key: 'glide_cents', show: cents },
    { name: 'Buzz, 50 to 400 ms', key: 'buzz_share', show: percent },
    { name: 'Buzz falls 20 dB in', key: 'buzz_s', show: seconds },
  ];
  const takes = $derived(
    [
      { name: 'Open', take: bench.open },
      { name: 'Found', take: bench.found },
    ].filter((each) => each.take != null),
  );
</script>

<details>
  <summary class="soft">All figures</summary>
  <!-- What scrolls must be reachable by keyboard. -->
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div class="overflow-x-auto" role="region" aria-label="All figures" tabindex="0">
    <table class="table-sm table">
      <thead>
        <tr
          ><th scope="col">Figure</th>{#each takes as { name } (name)}<th scope="col">{name}</th><th scope="col">scatter between strikes</th
            >{/each}</tr
        >
      </thead>
      <tbody>
        {#each FIGURES as { name, key, show } (key)}
          <tr>
            <th scope="row" class="font-normal">{name}</th>
            {#each takes as { name: taken, take } (taken)}
              <td>{show(take?.summary.profile[key])}</td>
              <td class="soft">{take?.summary.spread[key] == null ? '–' : `± ${show(take.summary.spread[key])}`}</td>
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
</details>
