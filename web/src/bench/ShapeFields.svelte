<script lang="ts">
  // The figures behind a drummer's word, each of which can be changed for this drum.
  import type { KeptDrum, Shape } from '../api/types';
  import { workbench } from './workbench.svelte';

  let { drum, shape }: { drum: KeptDrum; shape: Shape } = $props();

  const FIELDS = [
    { name: 'ring_times', words: 'Ring, times the genre’s', min: 0.1, max: 10, times: 1 },
    { name: 'body_times', words: 'Body, times the genre’s', min: 0.1, max: 10, times: 1 },
    { name: 'least_of_open', words: 'Open body left at least, %', min: 0, max: 100, times: 100 },
    { name: 'ring_over_body_most', words: 'Ring, times the body at most', min: 0.1, max: 20, times: 1 },
    { name: 'attack_loss_most_db', words: 'Attack it may lose, dB', min: 0, max: 20, times: 1 },
  ] as const;

  function change(name: (typeof FIELDS)[number]['name'], input: HTMLInputElement, times: number) {
    const value = input.valueAsNumber;
    const any = name === 'ring_over_body_most' && input.value === '';
    if (!any && (!input.checkValidity() || Number.isNaN(value))) return input.reportValidity();
    const { word, ring_times, body_times, least_of_open, ring_over_body_most, attack_loss_most_db } = shape;
    const before = { word: word ?? null, ring_times, body_times, least_of_open, ring_over_body_most, attack_loss_most_db };
    void workbench.wantDrum(drum, { kind: 'shape', shape: { ...before, [name]: any ? null : value / times } }, 'Changed for this drum.');
  }
</script>

<div class="grid grid-cols-2 gap-2">
  {#each FIELDS as { name, words, min, max, times } (name)}
    <label class="grid gap-1 text-sm">
      <span>{words}</span>
      <input
        class="input input-sm w-full"
        type="number"
        {min}
        {max}
        step="any"
        placeholder={name === 'ring_over_body_most' ? 'any' : undefined}
        value={shape[name] == null ? '' : Math.round(shape[name] * times * 100) / 100}
        onchange={(event) => change(name, event.currentTarget, times)}
      />
    </label>
  {/each}
</div>
