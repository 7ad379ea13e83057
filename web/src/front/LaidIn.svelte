<script lang="ts">
  // What is laid in besides: every way of closing the drum is then expected with it.
  import type { FrontPage } from '../api/types';
  import { fronts } from './front.svelte';
  import { placedCode } from './say';

  let { page }: { page: FrontPage } = $props();

  const steps = $derived(
    page.dials.flatMap((dial) => dial.steps.flatMap(({ plan }) => plan.placements.map((placement) => ({ dial, placement, plan })))),
  );
  const chosen = $derived(fronts.laid ? placedCode(fronts.laid) : '');
</script>

{#if steps.length > 0}
  <label class="no-print mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-lg">
    <span>Laid in besides</span>
    <select
      class="select w-auto max-w-full grow truncate pe-9 text-lg sm:grow-0"
      value={chosen}
      onchange={(event) => fronts.lay(steps.find(({ placement }) => placedCode(placement) === event.currentTarget.value)?.placement)}
    >
      <option value="">nothing</option>
      {#each page.dials as dial (dial.device)}
        <optgroup label={dial.name}>
          {#each steps.filter((step) => step.dial === dial) as { placement, plan } (placement.amount)}
            <option value={placedCode(placement)}>{dial.name}, {plan.devices[0]?.amount}</option>
          {/each}
        </optgroup>
      {/each}
    </select>
  </label>
{/if}
