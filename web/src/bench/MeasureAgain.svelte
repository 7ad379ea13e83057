<script lang="ts">
  // The kept sound of a take measured with the method as it is now: what changes, and whether to keep it.
  import { api } from '../api/client';
  import type { MeasuredAgain } from '../api/types';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { workbench } from './workbench.svelte';
  import { counted } from '../shell/figures';
  import { changeWords } from './figureNames';

  let { takeId, outdated = false }: { takeId: number; outdated?: boolean } = $props();

  let found = $state.raw<MeasuredAgain>();
  let working = $state(false);

  async function measure(keep: boolean) {
    working = true;
    await server.attempt(async () => {
      const again = await api.measureAgain(takeId, keep);
      found = keep ? undefined : again;
      if (keep) {
        notices.add('The take has its new figures.');
        await workbench.refresh();
      }
    });
    working = false;
  }

  const rows = $derived((found?.changed ?? []).flatMap(({ figure, before, after }) => changeWords(figure, before, after) ?? []));
  const same = $derived(found !== undefined && rows.length === 0 && found.strikes_used_before === found.strikes_used_after);
</script>

{#if !found}
  <button class="btn btn-sm btn-ghost" disabled={working} onclick={() => void measure(false)}>
    {working ? 'Measuring its sound again …' : 'Measure its sound again'}
  </button>
{:else}
  <div class="border-info my-2 border-l-4 pl-3" role="status">
    {#if same}
      <p>Measured again from the kept sound: nothing changes.</p>
      <button class="btn btn-sm" disabled={working} onclick={() => (outdated ? void measure(true) : (found = undefined))}>Good</button>
    {:else}
      <p>
        Measured again from the kept sound{found.strikes_used_before === found.strikes_used_after
          ? ''
          : `, ${counted(found.strikes_used_after, 'strike', 'strikes')} can be used instead of ${found.strikes_used_before}`}:
      </p>
      <ul class="my-1">
        {#each rows as words (words)}<li>{words}</li>{/each}
      </ul>
      <button class="btn btn-sm btn-primary" disabled={working} onclick={() => void measure(true)}>Keep the new figures</button>
      <button class="btn btn-sm" onclick={() => (found = undefined)}>Leave it as it was</button>
    {/if}
  </div>
{/if}
