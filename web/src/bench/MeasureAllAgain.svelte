<script lang="ts">
  // Every take of the drum measured again with the method as it is now: what changes, take by take, and whether to keep it.
  import type { TakeRow } from '../api/types';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { workbench } from './workbench.svelte';
  import { counted, when } from '../shell/figures';
  import { AllAgain } from './allAgain.svelte';
  import { changeWords } from './figureNames';

  let { count, rows }: { count: number; rows: () => Promise<TakeRow[]> } = $props();

  const all = new AllAgain();
  const finished = $derived(!all.running && all.total > 0);

  async function keep() {
    const changing = all.changed.length;
    await server.attempt(async () => {
      await all.keep();
      notices.add(`${counted(changing - all.changed.length, 'take', 'takes')} with new figures.`);
      await workbench.refresh();
    });
    if (all.changed.length + all.refused.length === 0) all.forget();
  }
</script>

{#if all.running}
  <div class="my-2" role="status">
    <p>Measuring again: {all.done} of {counted(all.total, 'take', 'takes')} …</p>
    <div class="flex items-center gap-3">
      <progress class="progress progress-primary" max={all.total} value={all.done} aria-label="Takes measured again"></progress>
      <button class="btn btn-sm" onclick={() => all.stop()}>Stop</button>
    </div>
  </div>
{:else if finished}
  <div class="border-info my-2 border-l-4 pl-3" role="status">
    <p>
      {all.done < all.total
        ? `Stopped after ${all.done} of ${counted(all.total, 'take', 'takes')}`
        : `${counted(all.total, 'take', 'takes')} measured again`}:
      {all.changed.length === 0 ? 'nothing changes.' : `${all.changed.length} would change.`}
    </p>
    <ul class="my-1 grid gap-1">
      {#each all.changed as { row, found } (row.id)}
        <li>
          <span class="font-semibold">{when(row.begun_at)}</span>:
          {[
            ...(found && found.strikes_used_before !== found.strikes_used_after
              ? [`${counted(found.strikes_used_after, 'strike', 'strikes')} can be used instead of ${found.strikes_used_before}`]
              : []),
            ...(found?.changed ?? []).flatMap(({ figure, before, after }) => changeWords(figure, before, after) ?? []),
          ].join('; ')}
        </li>
      {/each}
      {#each all.refused as { row, refused } (row.id)}
        <li><span class="font-semibold">{when(row.begun_at)}</span>: {refused}</li>
      {/each}
    </ul>
    {#if all.changed.length > 0}
      <button class="btn btn-sm btn-primary" onclick={() => void keep()}>Keep all the new figures</button>
      <button class="btn btn-sm" onclick={() => all.forget()}>Leave them as they were</button>
    {:else}
      <button class="btn btn-sm" onclick={() => all.forget()}>Good</button>
    {/if}
  </div>
{:else}
  <button class="btn btn-sm btn-ghost mt-2" onclick={() => void server.attempt(async () => all.measure(await rows()))}
    >Measure all {count} takes again</button
  >
{/if}
