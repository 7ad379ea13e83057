<script lang="ts">
  // What was on the drum before, to be recalled. Read when it is opened.
  import { untrack } from 'svelte';
  import { api } from '../api/client';
  import type { Bench, UsedBefore } from '../api/types';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { workbench } from './workbench.svelte';
  import { when, within } from '../shell/figures';
  import DeviceList from './DeviceList.svelte';

  let { bench }: { bench: Bench } = $props();

  let open = $state(false);
  let before = $state.raw<UsedBefore[]>();
  let naming = $state<number>();
  let name = $state('');

  $effect(() => {
    const asked = bench;
    if (!open) return;
    untrack(() => void read(asked));
  });

  async function read(asked: Bench) {
    await server.attempt(async () => {
      const found = await api.usedBefore(asked.drum.id);
      if (asked === bench) before = found;
    });
  }

  async function rename(id: number, to: string, was: string | null | undefined) {
    await server.attempt(async () => {
      await api.nameTreatment(id, to);
      naming = undefined;
      notices.add(to.trim() ? `Kept as “${to.trim()}”.` : 'It has no name any more.', () => api.nameTreatment(id, was ?? ''));
      await read(bench);
    });
  }

  function start(used: UsedBefore) {
    naming = used.treatment.id;
    name = used.treatment.name ?? '';
  }
</script>

<details class="no-print mt-3" bind:open>
  <summary class="soft text-lg">Used before on this drum</summary>
  {#if before}
    {#if before.length === 0}
      <p class="mt-2">Nothing yet. What you put on is kept here, to be put on again.</p>
    {/if}
    <ul class="mt-2 grid gap-2">
      {#each before as used (used.treatment.id)}
        {@const { treatment, assessment } = used}
        {@const on = bench.treatment?.id === treatment.id}
        <li class="border-base-300 rounded-box border p-3">
          <h3 class="text-lg first-letter:uppercase">{treatment.name ?? treatment.plan.words}</h3>
          <p class="soft text-sm">
            {#if treatment.name}{treatment.plan.words},{/if}
            {on ? 'on the drum since' : 'last put on'}
            {when(treatment.done_at)}{#if used.times > 1}, {used.times} times in all{/if}
          </p>
          <DeviceList devices={treatment.plan.devices} />
          <p class="mt-1">
            {used.measured ? 'Measured' : 'Never measured; as expected'}:
            {#if assessment.fits}it fits tonight’s wish.{:else}{within(assessment.off[0]?.sentence ?? 'No body was found.')}{/if}
          </p>
          {#if naming === treatment.id}
            <form
              class="mt-2 flex flex-wrap gap-2"
              onsubmit={(event) => {
                event.preventDefault();
                void rename(treatment.id, name, treatment.name);
              }}
            >
              <input
                class="input min-w-0 grow"
                maxlength="60"
                bind:value={name}
                aria-label="What you call it"
                placeholder="A name for it"
              />
              <button class="btn">Keep the name</button>
              <button type="button" class="btn btn-ghost" onclick={() => (naming = undefined)}>Leave it</button>
            </form>
          {:else}
            <div class="mt-2 flex flex-wrap gap-2">
              {#if !on}<button class="btn btn-sm" onclick={() => void workbench.putOn(treatment.plan)}>It is on again</button>{/if}
              <button class="btn btn-sm btn-ghost" onclick={() => start(used)}>{treatment.name ? 'Rename' : 'Give it a name'}</button>
            </div>
          {/if}
        </li>
      {/each}
    </ul>
  {:else if open}
    <p class="soft mt-2">Looking …</p>
  {/if}
</details>
