<script lang="ts">
  // A soundcheck with one channel for each microphone: what to flip, what to move, what each sum gains, and how long each drum sounds.
  import FileAudio from '@lucide/svelte/icons/file-audio';
  import { onMount } from 'svelte';
  import DropZone from '../shell/DropZone.svelte';
  import { counted, decibels, fixed } from '../shell/figures';
  import PairCard from './PairCard.svelte';
  import SessionDrums from './SessionDrums.svelte';
  import { NOBODY, soundcheck, type Work } from './soundcheck.svelte';

  onMount(() => void soundcheck.loadChoices());

  const { checked } = $derived(soundcheck);
  const simulated = $derived(checked !== undefined && checked.name == null);
  const DOING: Record<Work, string> = {
    sending: 'Reading the file',
    looking: 'Looking at the microphones',
    simulating: 'Playing and recording: half a minute',
    measuring: 'Measuring the drums',
  };
</script>

<p class="soft no-print max-w-3xl">
  Record a soundcheck or a song with one channel for each microphone. Soft Ember says whose polarity to flip, how far one microphone is from
  another, what their sum gains, and how long each drum rings. It is surest when each drum is first hit four times by itself. Nothing of the
  file is kept.
</p>
<DropZone
  label="Soundcheck"
  accept="audio/*,.wav,.flac,.aif,.aiff,.caf"
  ontake={([first]) => {
    if (first) void soundcheck.take(first);
  }}
>
  {#snippet children(choose)}
    <div class="flex flex-wrap items-center gap-x-3 gap-y-1">
      {#if soundcheck.work}
        <span>{DOING[soundcheck.work]}</span>
        <progress class="progress progress-primary min-w-40 grow" value={soundcheck.share} aria-label="Progress"></progress>
        {#if soundcheck.work === 'sending' || soundcheck.work === 'measuring'}
          <button class="btn btn-sm" onclick={() => soundcheck.stop()}>Stop</button>
        {/if}
      {:else}
        <button class="btn" onclick={choose}><FileAudio class="size-5" aria-hidden="true" />Take the soundcheck’s file</button>
        <button class="btn btn-ghost" onclick={() => void soundcheck.simulate()}>Look at a simulated one</button>
        <span class="soft text-sm">or drop it here: WAV, FLAC, AIFF or CAF with 2 to 64 channels, up to two hours.</span>
      {/if}
    </div>
  {/snippet}
</DropZone>
{#if soundcheck.refused}<p class="text-error mt-3" role="alert">
    {#if soundcheck.file}{soundcheck.file}:{/if}
    {soundcheck.refused}
  </p>{/if}

{#if checked}
  <h3 class="mt-5 text-xl">{checked.name ?? 'A simulated soundcheck'}</h3>
  {#each checked.notes as note (note)}<p>{note}</p>{/each}
  <p class="soft">
    {fixed(checked.duration_s, 0)} s, {checked.channels.length} channels. {#if !soundcheck.named}Say what each of them is.{/if}
  </p>
  <ol class="mt-2 grid gap-x-4 gap-y-2 sm:grid-cols-2 lg:grid-cols-3">
    {#each checked.channels as channel, index (channel.channel)}
      <li class="bg-base-200 rounded-box px-3 py-2">
        <label class="flex items-center gap-2">
          <span class="display w-6 text-right">{channel.channel}</span>
          {#if simulated}<span class="grow">{channel.name}</span>
          {:else}
            <select
              class="select grow"
              aria-label="Microphone of channel {channel.channel}"
              value={soundcheck.names[index] ?? NOBODY}
              onchange={(event) => void soundcheck.name(index, event.currentTarget.value)}
            >
              {#each soundcheck.choices as each (each.microphone)}<option value={each.code}>{each.name}</option>{/each}
            </select>
          {/if}
          <span class="soft w-20 text-right text-sm whitespace-nowrap"
            >{channel.peak_dbfs == null ? '–' : `${decibels(channel.peak_dbfs)}FS`}</span
          >
        </label>
        {#each channel.notes as note (note)}<p class="text-warning mt-1 text-sm">{note}</p>{/each}
      </li>
    {/each}
  </ol>

  {#if soundcheck.hasDrums}
    <h3 class="mt-6 text-xl">The drums</h3>
    {#if soundcheck.session}
      <p class="soft">{counted(soundcheck.session.drums.length, 'drum', 'drums')} in {fixed(soundcheck.session.duration_s, 0)} s.</p>
      <SessionDrums session={soundcheck.session} />
    {:else}
      <p class="soft mt-1 max-w-3xl">
        Every hit is given to the drum that was hit, and each drum is measured where it rings by itself. It need not be hit alone.
      </p>
      <button class="btn btn-primary no-print mt-2" disabled={soundcheck.work !== undefined} onclick={() => void soundcheck.measure()}
        >Measure its drums</button
      >
    {/if}
  {/if}

  {#if checked.pairs.length > 0 || checked.snare_in_overheads}
    <h3 class="mt-6 text-xl">What to do at the microphones</h3>
    {#if checked.snare_in_overheads}<p class="mt-2 text-lg">{checked.snare_in_overheads.sentence}</p>{/if}
    <ul class="mt-2 grid gap-3 lg:grid-cols-2">
      {#each checked.pairs as pair (pair.channels.join())}<PairCard {pair} />{/each}
    </ul>
  {:else if soundcheck.named}
    <p class="mt-4">No two of them hear the same drum closely: name both microphones of a drum, or the overheads.</p>
  {/if}
{/if}
