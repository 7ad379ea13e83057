<script lang="ts">
  import { onMount } from 'svelte';
  import { playedTonight } from '../tonight/playedTonight.svelte';
  import { dialogs } from '../shell/keys';

  let { bpm }: { bpm: number } = $props();

  const LEAST = 30;
  const MOST = 300;
  /** A pause longer than this begins a new tempo, ms. */
  const PAUSE = 2200;
  const TAPS = 8;

  let taps: number[] = [];
  let tapped = $state(0);
  let refused = $state('');
  let later: ReturnType<typeof setTimeout> | undefined;

  function set(value: number) {
    if (!Number.isFinite(value) || value < LEAST || value > MOST) {
      refused = `A tempo lies between ${LEAST} and ${MOST} BPM.`;
      return;
    }
    refused = '';
    void playedTonight.set({ bpm: value, song_id: null });
  }

  function tap() {
    const now = performance.now();
    const last = taps.at(-1);
    if (last !== undefined && now - last > PAUSE) taps = [];
    taps = [...taps, now].slice(-TAPS);
    tapped = taps.length;
    const first = taps[0];
    if (first === undefined || taps.length < 3) return;
    const value = Math.round((60_000 * (taps.length - 1)) / (now - first));
    // Everything is worked out anew when the tapping pauses, not at each tap.
    clearTimeout(later);
    later = setTimeout(() => {
      set(value);
      taps = [];
      tapped = 0;
    }, 900);
  }

  onMount(() => {
    dialogs.tap = tap;
  });
</script>

<div class="grid gap-1">
  <label class="soft" for="bpm">Tempo, beats a minute</label>
  <div class="flex items-center gap-2">
    <input
      id="bpm"
      class="input w-24 text-lg"
      type="number"
      min={LEAST}
      max={MOST}
      step="1"
      value={bpm}
      aria-describedby={refused ? 'bpm-refused' : undefined}
      onchange={(event) => set(event.currentTarget.valueAsNumber)}
    />
    <span>BPM</span>
    <button class="btn no-print ml-auto" onclick={tap}>{tapped > 0 ? `Tapped ${tapped}` : 'Tap'} <kbd>T</kbd></button>
  </div>
  {#if refused}<p id="bpm-refused" class="text-error" role="alert">{refused}</p>{/if}
</div>
