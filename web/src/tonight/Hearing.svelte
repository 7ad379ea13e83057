<script lang="ts">
  // Hears a place for a few seconds: through the microphone, from a file, or simulated.
  import FileAudio from '@lucide/svelte/icons/file-audio';
  import Mic from '@lucide/svelte/icons/mic';
  import { onDestroy } from 'svelte';
  import type { VenueSound } from '../api/client';
  import type { Loudness, RoomClass } from '../api/types';
  import { type Microphone, openMicrophone } from '../listening/microphone';
  import { wav } from './wav';

  interface Props {
    /** What the button says. */
    label: string;
    /** Seconds that are heard. */
    length: number;
    /** What to do while it hears. */
    during: string;
    /** A noise is played that stops half-way: for rooms, where nobody can clap. */
    burst?: boolean;
    simulated: { simulated: RoomClass; loudness: Loudness };
    measure: (sound: VenueSound) => Promise<void>;
  }
  let { label, length, during, burst = false, simulated, measure }: Props = $props();

  let input = $state<HTMLInputElement>();
  let left = $state<number>();
  let busy = $state(false);
  let refused = $state('');
  let warnings = $state<string[]>([]);
  let microphone: Microphone | undefined;
  let noise: AudioContext | undefined;

  onDestroy(stop);

  async function measured(sound: VenueSound) {
    busy = true;
    refused = '';
    try {
      await measure(sound);
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    } finally {
      busy = false;
      // Gone with its place, if the user went on meanwhile.
      if (input) input.value = '';
    }
  }

  async function listen(withBurst: boolean) {
    const pieces: Float32Array[] = [];
    let count = 0;
    let first: number | undefined;
    refused = '';
    try {
      await new Promise<void>((resolve, reject) => {
        openMicrophone(
          (start, samples) => {
            // Lost sound would shorten every decay: better none than a wrong one.
            first ??= start;
            if (start !== first + count)
              return reject(new Error('The computer lost some of the sound. Close other programs and listen again.'));
            pieces.push(samples);
            count += samples.length;
            left = Math.max(0, length - count / (microphone?.rate ?? 48_000));
            if (left === 0) resolve();
          },
          (why) => reject(new Error(why)),
        ).then((opened) => {
          microphone = opened;
          ({ warnings } = opened);
          left = length;
          if (withBurst) playBurst();
        }, reject);
      });
      const rate = microphone?.rate ?? 48_000;
      stop();
      await measured({ sound: wav(pieces, rate), name: 'recording.wav' });
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    } finally {
      stop();
    }
  }

  /** Three bursts of noise, with silence for the room's answer after each. */
  function playBurst() {
    const context = new AudioContext();
    noise = context;
    const cycle = 2.6;
    const buffer = context.createBuffer(1, context.sampleRate * cycle * 3, context.sampleRate);
    const samples = buffer.getChannelData(0);
    for (let n = 0; n < samples.length; n++) {
      const t = (n / context.sampleRate) % cycle;
      samples[n] = t > 0.3 && t < 0.9 ? 0.4 * (2 * Math.random() - 1) : 0;
    }
    const source = context.createBufferSource();
    source.buffer = buffer;
    source.connect(context.destination);
    source.start();
  }

  function stop() {
    microphone?.close();
    microphone = undefined;
    void noise?.close();
    noise = undefined;
    left = undefined;
  }
</script>

<div class="grid gap-2">
  <input
    bind:this={input}
    type="file"
    class="hidden"
    tabindex="-1"
    accept="audio/*,video/mp4,video/quicktime,.wav,.flac,.aif,.aiff,.ogg,.mp3,.m4a,.caf,.mp4,.mov"
    aria-label="{label}: sound file"
    onchange={() => {
      const file = input?.files?.[0];
      if (file) void measured({ sound: file, name: file.name });
    }}
  />
  {#if left !== undefined}
    <div class="flex items-center gap-3">
      <progress class="progress progress-primary grow" value={length - left} max={length} aria-label="Heard so far"></progress>
      <span class="text-lg">{during} {Math.ceil(left)} s</span>
      <button type="button" class="btn btn-sm" onclick={stop}>Stop</button>
    </div>
  {:else if busy}
    <progress class="progress progress-primary" aria-label="Measuring"></progress>
  {:else}
    <div class="flex flex-wrap gap-2">
      <button type="button" class="btn btn-sm" onclick={() => void listen(false)}><Mic class="size-4" aria-hidden="true" />{label}</button>
      {#if burst}
        <button type="button" class="btn btn-sm" onclick={() => void listen(true)}>Play noise instead of clapping</button>
      {/if}
      <button type="button" class="btn btn-sm" onclick={() => input?.click()}
        ><FileAudio class="size-4" aria-hidden="true" />Sound file</button
      >
      <button type="button" class="btn btn-sm btn-ghost" onclick={() => void measured(simulated)}>Simulated</button>
    </div>
  {/if}
  {#each warnings as warning (warning)}<p class="text-warning text-sm">{warning}</p>{/each}
  {#if refused}<p class="text-error" role="alert">{refused}</p>{/if}
</div>
