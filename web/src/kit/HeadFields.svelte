<script lang="ts">
  // What a head is made of, and how long it has been played.
  import type { Head } from '../api/types';
  import { TRAITS } from './heads';
  import NumberField from '../shell/NumberField.svelte';

  let { head = $bindable(), legend }: { head: Head; legend: string } = $props();
  const name = $props.id();

  function setPlies(plies: number) {
    // Film of one ply and of two go together as they are usually sold; what was typed otherwise stays.
    const film_mil = plies === 2 && head.film_mil === 10 ? 14 : plies === 1 && head.film_mil === 14 ? 10 : head.film_mil;
    head = { ...head, plies, film_mil, oil: plies === 2 && head.oil };
  }
</script>

<fieldset class="border-base-300 rounded-box min-w-0 border p-3">
  <legend class="px-1">{legend}</legend>
  <div class="flex flex-wrap items-end gap-x-4 gap-y-3">
    <div class="join" role="group" aria-label="Plies">
      {#each [{ plies: 1, word: 'Single ply' }, { plies: 2, word: 'Double ply' }] as { plies, word } (plies)}
        <label class="btn join-item has-checked:btn-primary">
          <input type="radio" class="sr-only" {name} checked={head.plies === plies} onchange={() => setPlies(plies)} />{word}
        </label>
      {/each}
    </div>
    <NumberField label="Film, mil" min={2} max={40} field="w-28" bind:value={head.film_mil} />
    <NumberField label="Played, hours" min={0} max={20000} field="w-28" bind:value={head.played_h} />
    <div class="flex flex-wrap gap-2" role="group" aria-label="Made with">
      {#each TRAITS as trait (trait.name)}
        {@const idle = trait.name === 'oil' && head.plies < 2}
        <label class="btn has-checked:btn-primary {idle ? 'btn-disabled' : ''}">
          <input type="checkbox" class="sr-only" disabled={idle} bind:checked={head[trait.name]} />{trait.word}
        </label>
      {/each}
    </div>
  </div>
</fieldset>
