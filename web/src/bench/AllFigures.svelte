<script lang="ts">
  // Every figure of the decay profile, open beside found, with the scatter between strikes.
  import type { Bench } from '../api/types';
  import { FIGURES } from './figureNames';

  let { bench }: { bench: Bench } = $props();

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
