<script lang="ts">
  import FileAudio from '@lucide/svelte/icons/file-audio';
  import { api } from '../api/client';
  import type { Reading } from '../api/types';
  import { drumKit } from '../kit/drumKit.svelte';
  import { notices } from '../shell/notices.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import DropZone from '../shell/DropZone.svelte';
  import { counted } from '../shell/figures';

  let name = $state('');
  /** Share sent, 0 to 1; from 1 on it is measured. None while no file is on its way. */
  let sent = $state<number>();
  /** How far the measuring has come. */
  let reading = $state.raw<Reading>();
  let refused = $state('');
  let calledOff: AbortController | undefined;

  const isTrack = (file: File) => file.name.toLowerCase().endsWith('.txt');

  /** Takes a sound file, and a label track that says which hit is which. */
  async function take(all: File[]) {
    const drum = drumKit.drumId;
    const [first] = all;
    const file = all.find((each) => !isTrack(each));
    const track = all.find(isTrack);
    if (!first || drum === undefined || sent !== undefined) return;
    ({ name } = file ?? first);
    refused = file ? '' : 'A label track alone says nothing: give it together with its sound file.';
    if (!file) return;
    sent = 0;
    reading = undefined;
    calledOff = new AbortController();
    try {
      let { take, notes } = await api.upload(
        drum,
        file,
        (share, measured) => {
          sent = share;
          reading = measured;
        },
        calledOff.signal,
      );
      if (track) {
        // The sound is kept by now, whatever the track says.
        const said = await api.labels(take.id, await track.text()).then(
          (labelled) => labelled.notes,
          (error: unknown) => [`${track.name}: ${error instanceof Error ? error.message : String(error)}`],
        );
        notes = [...notes, ...said];
      }
      const { strikes_used, strikes_rejected } = take.summary;
      const heard = `${name}: ${counted(strikes_used, 'good strike', 'good strikes')}${strikes_rejected > 0 ? `, ${strikes_rejected} left out` : ''}.`;
      notices.add([heard, ...notes].join(' '), undefined, strikes_used > 0 ? 'plain' : 'problem');
      if (strikes_used === 0) refused = [...new Set(take.strikes.flatMap((strike) => strike.advice))].join(' ');
      await workbench.refresh();
    } catch (error) {
      const off = error instanceof DOMException && error.name === 'AbortError';
      refused = off ? '' : error instanceof Error ? error.message : String(error);
    } finally {
      sent = undefined;
    }
  }
</script>

<DropZone
  label="Sound file"
  accept="audio/*,video/mp4,video/quicktime,video/webm,.wav,.flac,.aif,.aiff,.ogg,.opus,.webm,.mp3,.m4a,.caf,.mp4,.mov,.txt"
  multiple
  key="f"
  ontake={(files) => void take(files)}
>
  {#snippet children(choose)}
    {#if sent === undefined}
      <div class="flex flex-wrap items-center gap-x-3 gap-y-1">
        <button class="btn btn-sm" onclick={choose}><FileAudio class="size-4" aria-hidden="true" />Take a sound file <kbd>F</kbd></button>
        <span class="soft text-sm"
          >or drop one here: WAV, FLAC, AIFF, MP3, Ogg, Opus, a phone’s M4A or video; up to two hours. A label track (.txt) beside it says
          which hit is on which drum.</span
        >
      </div>
    {:else}
      <div class="flex items-center gap-3">
        <span class="truncate"
          >{sent < 1 ? `Reading ${name}` : `Measuring ${name}`}{reading?.strikes
            ? `: ${counted(reading.strikes, 'strike', 'strikes')} so far`
            : ''}</span
        >
        <progress class="progress progress-primary grow" value={sent < 1 ? sent : reading?.share || undefined} aria-label="Progress"
        ></progress>
        <button class="btn btn-sm" onclick={() => calledOff?.abort()}>Stop</button>
      </div>
    {/if}
    {#if refused}<p class="text-error mt-1" role="alert">{name}: {refused}</p>{/if}
  {/snippet}
</DropZone>
