<script lang="ts">
  // What gets one through the evening when something breaks.
  import { api } from '../api/client';
  import type { Broken, Repair } from '../api/types';
  import { server } from '../shell/server.svelte';
  import Modal from '../shell/Modal.svelte';
  import { dialogs } from '../shell/dialogs.svelte';

  const PARTS: [Broken, string][] = [
    ['head', 'A head'],
    ['hoop', 'Hoop, rod or lug'],
    ['wires', 'Snare wires'],
    ['stand', 'Stand or pedal'],
    ['cymbal', 'A cymbal'],
  ];

  let all = $state.raw<Repair[]>([]);
  let part = $state<Broken>();

  function begin() {
    part = undefined;
    if (all.length === 0) void server.attempt(async () => (all = await api.repairs()));
  }

  const shown = $derived(all.filter((repair) => part === undefined || repair.broken === part));
</script>

<Modal open={dialogs.open === 'repairs'} titleId="repairs-title" width="max-w-3xl" onopen={begin} onclose={() => dialogs.close('repairs')}>
  <h2 id="repairs-title" class="text-2xl">Something broke</h2>
  <p class="soft mb-3">This gets you through the evening. Mend it properly afterwards.</p>
  <div class="mb-4 flex flex-wrap gap-2" role="group" aria-label="What broke">
    {#each PARTS as [broken, words] (broken)}
      <button
        type="button"
        class="btn {part === broken ? 'btn-secondary' : ''}"
        aria-pressed={part === broken}
        onclick={() => (part = part === broken ? undefined : broken)}>{words}</button
      >
    {/each}
  </div>
  <div class="grid gap-5">
    {#each shown as { happened, minutes, steps, traps } (happened)}
      <section>
        <h3 class="text-lg leading-tight">{happened}</h3>
        <p class="soft text-sm">about {minutes} min</p>
        <ol class="mt-1 grid list-decimal gap-1 pl-6">
          {#each steps as step (step)}<li>{step}</li>{/each}
        </ol>
        {#each traps as trap (trap)}<p class="border-warning mt-2 border-l-4 pl-3">{trap}</p>{/each}
      </section>
    {/each}
  </div>
  <form method="dialog" class="modal-action"><button class="btn btn-primary">Close</button></form>
</Modal>
