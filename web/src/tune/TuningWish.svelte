<script lang="ts">
  // What the head is to be tuned to: even where it is, or a pitch as a note or in Hz.
  import type { Tuning } from '../api/types';
  import { noteHz } from './notes';
  import { tune } from './tune.svelte';

  let { tuning }: { tuning: Tuning } = $props();
  let text = $derived(tuning.wanted_hz == null ? '' : tuning.wanted_hz.toFixed(1));
  let refused = $state('');

  async function set(event: SubmitEvent) {
    event.preventDefault();
    const hz = noteHz(text);
    if (hz === undefined || hz < 30 || hz > 1200) {
      refused = 'Write a note such as A3 or F#3, or a pitch of 30 to 1200 in Hz.';
      return;
    }
    refused = '';
    await tune.setWanted(hz);
  }
</script>

<form class="no-print mt-4 flex flex-wrap items-end gap-2" onsubmit={(event) => void set(event)}>
  <label class="grid gap-1">
    <span class="soft">{tuning.one_bolt ? 'Edge' : 'Lugs'} to (note or Hz)</span>
    <input class="input w-36" bind:value={text} placeholder="as they are" autocomplete="off" aria-invalid={refused !== ''} />
  </label>
  <button class="btn" disabled={text.trim() === ''}>Set</button>
  {#if tuning.wanted_hz != null}
    <button type="button" class="btn btn-ghost" onclick={() => void tune.setWanted(null)}
      >{tuning.one_bolt ? 'As it is' : 'Just even'}</button
    >
  {/if}
  {#if refused}<p class="text-error w-full" role="alert">{refused}</p>{/if}
</form>
