<script lang="ts">
  import { tempo } from '../tonight/tempo.svelte';

  let { bpm }: { bpm: number } = $props();
</script>

<div class="grid gap-1">
  <label class="soft" for="bpm">Tempo, beats a minute</label>
  <div class="flex items-center gap-2">
    <input
      id="bpm"
      class="input w-24 text-lg"
      type="number"
      min={tempo.least}
      max={tempo.most}
      step="1"
      value={bpm}
      aria-describedby={tempo.refused ? 'bpm-refused' : undefined}
      onchange={(event) => tempo.set(event.currentTarget.valueAsNumber)}
    />
    <span>BPM</span>
    <button class="btn no-print ml-auto" onclick={() => tempo.tap()}
      >{tempo.tapped > 0 ? `Tapped ${tempo.tapped}` : 'Tap'} <kbd>T</kbd></button
    >
  </div>
  {#if tempo.refused}<p id="bpm-refused" class="text-error" role="alert">{tempo.refused}</p>{/if}
</div>
