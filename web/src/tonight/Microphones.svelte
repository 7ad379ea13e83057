<script lang="ts">
  // A soundcheck with one channel for each microphone: what to flip, what to move, and what each sum gains.
  import FileAudio from '@lucide/svelte/icons/file-audio';
  import { onMount } from 'svelte';
  import { api } from '../api/client';
  import type { MicrophoneChoice, MicrophonesChecked } from '../api/types';
  import { decibels, fixed } from '../shell/figures';
  import { server } from '../shell/server.svelte';
  import PairCard from './PairCard.svelte';

  let choices = $state.raw<MicrophoneChoice[]>([]);
  let file = $state.raw<File>();
  let checked = $state.raw<MicrophonesChecked>();
  let names = $state<string[]>([]);
  let busy = $state(false);
  let refused = $state('');
  let over = $state(false);
  let input = $state<HTMLInputElement>();
  let asked = 0;

  onMount(() => {
    void server.attempt(async () => (choices = await api.microphones()));
  });

  const named = $derived(names.some((name) => name !== '-'));

  /** A new file is listed first; then its channels are named, and every change is looked at anew. */
  async function look(taken: File | undefined, as: string[] | undefined) {
    if (!taken) return;
    const mine = ++asked;
    busy = true;
    refused = '';
    try {
      const answer = await api.checkMicrophones(taken, as);
      if (mine !== asked) return;
      checked = answer;
      if (!as) names = answer.channels.map(() => '-');
    } catch (error) {
      if (mine !== asked) return;
      refused = error instanceof Error ? error.message : String(error);
      if (!as) checked = undefined;
    } finally {
      if (mine === asked) busy = false;
      if (input) input.value = '';
    }
  }

  /** The stand-in for an interface with many inputs. */
  async function simulate() {
    const mine = ++asked;
    busy = true;
    refused = '';
    file = undefined;
    await server.attempt(async () => {
      const answer = await api.simulatedSoundcheck();
      if (mine !== asked) return;
      checked = answer;
      names = answer.channels.map((channel) => choices.find((each) => each.microphone === channel.microphone)?.code ?? '-');
    });
    if (mine === asked) busy = false;
  }

  function take(files: FileList | null | undefined) {
    file = files?.[0];
    void look(file, undefined);
  }

  function name(channel: number, as: string) {
    names[channel] = as;
    void look(file, $state.snapshot(names));
  }
</script>

<p class="soft no-print max-w-3xl">
  Record a soundcheck with one channel for each microphone, and hit each drum four times by itself. Soft Ember then says whose polarity to
  flip, how far one microphone is from another, and what their sum gains. Nothing of the file is kept.
</p>
<div
  class="no-print rounded-box mt-3 flex flex-wrap items-center gap-x-3 gap-y-1 border border-dashed px-3 py-2 {over
    ? 'border-primary bg-base-200'
    : 'border-base-300'}"
  role="group"
  aria-label="Soundcheck"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    take(event.dataTransfer?.files);
  }}
>
  <input
    bind:this={input}
    type="file"
    class="hidden"
    accept="audio/*,.wav,.flac,.aif,.aiff,.caf"
    tabindex="-1"
    aria-label="Soundcheck"
    onchange={() => take(input?.files)}
  />
  <button class="btn" disabled={busy} onclick={() => input?.click()}
    ><FileAudio class="size-5" aria-hidden="true" />Take the soundcheck’s file</button
  >
  <button class="btn btn-ghost" disabled={busy} onclick={() => void simulate()}>Look at a simulated one</button>
  <span class="soft text-sm">or drop it here: WAV, FLAC, AIFF or CAF with 2 to 64 channels; a minute is enough.</span>
  {#if busy}<progress class="progress progress-primary w-full" aria-label="Progress"></progress>{/if}
</div>
{#if refused}<p class="text-error mt-3" role="alert">{file?.name}: {refused}</p>{/if}

{#if checked}
  <h3 class="mt-5 text-xl">{file?.name ?? 'A simulated soundcheck'}</h3>
  {#each checked.notes as note (note)}<p>{note}</p>{/each}
  <p class="soft">
    {fixed(checked.duration_s, 0)} s, {checked.channels.length} channels. {#if !named}Say what each of them is.{/if}
  </p>
  <ol class="mt-2 grid gap-x-4 gap-y-2 sm:grid-cols-2 lg:grid-cols-3">
    {#each checked.channels as channel, index (channel.channel)}
      <li class="bg-base-200 rounded-box px-3 py-2">
        <label class="flex items-center gap-2">
          <span class="display w-6 text-right">{channel.channel}</span>
          {#if file}
            <select
              class="select grow"
              aria-label="Microphone of channel {channel.channel}"
              value={names[index] ?? '-'}
              onchange={(event) => name(index, event.currentTarget.value)}
            >
              {#each choices as each (each.microphone)}<option value={each.code}>{each.name}</option>{/each}
            </select>
          {:else}<span class="grow">{channel.name}</span>{/if}
          <span class="soft w-20 text-right text-sm whitespace-nowrap"
            >{channel.peak_dbfs == null ? '–' : `${decibels(channel.peak_dbfs)}FS`}</span
          >
        </label>
        {#each channel.notes as note (note)}<p class="text-warning mt-1 text-sm">{note}</p>{/each}
      </li>
    {/each}
  </ol>

  {#if checked.pairs.length > 0 || checked.snare_in_overheads}
    <h3 class="mt-6 text-xl">What to do</h3>
    {#if checked.snare_in_overheads}<p class="mt-2 text-lg">{checked.snare_in_overheads.sentence}</p>{/if}
    <ul class="mt-2 grid gap-3 lg:grid-cols-2">
      {#each checked.pairs as pair (pair.channels.join())}<PairCard {pair} />{/each}
    </ul>
  {:else if named}
    <p class="mt-4">No two of them hear the same drum closely: name both microphones of a drum, or the overheads.</p>
  {/if}
{/if}
