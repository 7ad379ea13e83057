<script lang="ts">
  // Which notes are to be practised on a drum whose note is ended by hand.
  import type { NoteValue } from '../api/types';
  import { listening } from '../listening/listen.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { seconds } from '../shell/figures';
  import { NOTES } from '../tonight/say';
  import Ends from './Ends.svelte';
  import { lengthOf } from './lengths';
  import { trainer } from './trainer.svelte';

  const VALUES = Object.entries(NOTES) as [NoteValue, string][];
</script>

<section class="bg-base-200 rounded-box no-print mt-3 p-4" aria-labelledby="notes-title">
  <h3 id="notes-title" class="mb-1 text-xl">Note lengths</h3>
  <p class="soft mb-3">Hand, fingertips or knee end its note. Play some, and hear whether each was as long as written.</p>
  <div class="flex flex-wrap items-end gap-3">
    <label class="grid gap-1">
      <span class="soft">Written</span>
      <select class="select w-44 text-lg" bind:value={trainer.value}>
        {#each VALUES as [value, words] (value)}<option {value}>{words}</option>{/each}
      </select>
    </label>
    <label class="grid gap-1">
      <span class="soft">Quarter notes a minute</span>
      <input
        class="input w-28 text-lg"
        type="number"
        min="30"
        max="300"
        value={trainer.bpm}
        onchange={(event) =>
          (trainer.ownBpm = Number.isFinite(event.currentTarget.valueAsNumber) ? event.currentTarget.valueAsNumber : undefined)}
      />
    </label>
    <button class="btn btn-outline" onclick={() => drumKit.drumId !== undefined && trainer.begin(drumKit.drumId, listening.hearing)}
      >Train {seconds(trainer.possible ? lengthOf(trainer.value, trainer.bpm) : undefined)}{listening.hearing === 'simulated'
        ? ' (simulated)'
        : ''} <kbd>J</kbd></button
    >
  </div>
  <Ends />
</section>
