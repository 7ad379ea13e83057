<script lang="ts">
  import { SvelteMap, SvelteSet } from 'svelte/reactivity';
  import type { Bench, TakeRow } from '../api/types';
  import { api } from '../api/client';
  import { isMetal } from '../kit/kinds.svelte';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { workbench } from './workbench.svelte';
  import { counted, seconds, when } from '../shell/figures';
  import MeasureAgain from './MeasureAgain.svelte';
  import MeasureAllAgain from './MeasureAllAgain.svelte';
  import Strikes from './Strikes.svelte';

  let { bench }: { bench: Bench } = $props();

  const FROM = { microphone: 'microphone', file: 'file', simulated: 'simulated drum' };
  let removing = $state<number>();
  /** Takes that are looked into: only of those are the strikes read. */
  const opened = new SvelteSet<number>();
  /** Older takes than the bench brings, by drum. */
  const older = new SvelteMap<number, TakeRow[]>();
  const before = $derived(older.get(bench.drum.id) ?? []);
  const rows = $derived([...bench.takes, ...before.filter((row) => !bench.takes.some((other) => other.id === row.id))]);

  async function showOlder() {
    const [drum, last] = [bench.drum.id, rows.at(-1)];
    await server.attempt(async () => {
      const page = await api.takes(drum, last?.id);
      older.set(drum, [...before, ...page.takes]);
    });
  }

  /** Every take there is, for what looks at all of them. */
  async function allRows(): Promise<TakeRow[]> {
    const all = [...rows];
    for (;;) {
      const page = await api.takes(bench.drum.id, all.at(-1)?.id);
      if (page.takes.length === 0) return all;
      all.push(...page.takes);
    }
  }

  function condition(row: TakeRow): string {
    const state = row.heard_as ? `, ${row.heard_as}` : '';
    if (row.treatment_id == null) return isMetal(bench.drum.kind) && row.heard_as ? row.heard_as : `open${state}`;
    return `${row.treatment_id === bench.treatment?.id ? 'as it is now' : 'earlier treatment'}${state}`;
  }

  async function remove(id: number) {
    removing = undefined;
    await server.attempt(async () => {
      await api.removeTake(id);
      older.set(
        bench.drum.id,
        before.filter((row) => row.id !== id),
      );
      notices.add('The take was removed.');
      await workbench.refresh();
    });
  }
</script>

{#if bench.takes.length > 0}
  <details class="no-print mt-2">
    <summary class="soft">Takes ({bench.takes_in_all})</summary>
    {#if bench.takes_in_all > 1}
      {#key bench.drum.id}<MeasureAllAgain count={bench.takes_in_all} rows={allRows} />{/key}
    {/if}
    <ul class="mt-2 grid gap-2">
      {#each rows as row (row.id)}
        <li class="border-base-300 rounded-box border px-3 py-2">
          <details ontoggle={(event) => (event.currentTarget.open ? opened.add(row.id) : opened.delete(row.id))}>
            <summary>
              <span class="font-semibold">{when(row.begun_at)}</span>, {condition(row)}, {FROM[row.source]}{row.source_name
                ? ` “${row.source_name}”`
                : ''}:
              {counted(row.strikes_used, 'strike', 'strikes')}{row.strikes_rejected > 0 ? `, ${row.strikes_rejected} left out` : ''}; body {seconds(
                row.profile.body_t60_s,
              )}, ring {seconds(row.profile.ring_t60_s)}{row.doubt && !row.counted ? '; not counted' : ''}
            </summary>
            {#if opened.has(row.id)}<Strikes takeId={row.id} />{/if}
            {#if row.doubt}
              <p class="my-2">{row.doubt} {row.counted ? 'You said that it counts.' : 'It is not counted.'}</p>
              <button class="btn btn-sm" onclick={() => void workbench.countTake(row.id, !row.counted)}
                >{row.counted ? 'Do not count it' : 'Count it'}</button
              >
            {/if}
            <MeasureAgain takeId={row.id} />
            {#if row.in_use}
              <p class="soft text-sm">A treatment started from this take, so it stays.</p>
            {:else if removing === row.id}
              <p class="my-2">This removes the take with the sound of its strikes. It cannot be undone.</p>
              <button class="btn btn-sm btn-error" onclick={() => void remove(row.id)}>Remove for good</button>
              <button class="btn btn-sm btn-ghost" onclick={() => (removing = undefined)}>Keep it</button>
            {:else}
              <button class="btn btn-sm btn-ghost text-error" onclick={() => (removing = row.id)}>Remove the take …</button>
            {/if}
          </details>
        </li>
      {/each}
    </ul>
    {#if rows.length < bench.takes_in_all}
      <button class="btn btn-sm mt-2" onclick={() => void showOlder()}>Show older takes ({bench.takes_in_all - rows.length} more)</button>
    {/if}
  </details>
{/if}
