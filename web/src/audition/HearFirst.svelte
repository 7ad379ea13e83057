<script lang="ts">
  // Wide open, expected, and as it is now: in step, one key between them.
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import type { AuditionVersion } from '../api/types';
  import { workbench } from '../bench/workbench.svelte';
  import { notices } from '../shell/notices.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { seconds } from '../shell/figures';
  import { hearing, type Way } from './audition.svelte';
  import Modal from '../shell/Modal.svelte';
  import { dialogs } from '../shell/dialogs.svelte';

  const audition = $derived(hearing.audition);
  const NAMES: Record<AuditionVersion['version'], string> = { open: 'Wide open', expected: 'Expected', found: 'As it is now' };
  const WAYS: { way: Way; name: string }[] = [
    { way: 'alone', name: 'Strike by strike' },
    { way: 'groove', name: 'In a groove' },
  ];

  function lasts(version: AuditionVersion['version']) {
    const profiles = {
      open: workbench.bench?.open?.summary.profile,
      expected: hearing.expected,
      found: workbench.bench?.found?.summary.profile,
    };
    const profile = profiles[version];
    return `body ${seconds(profile?.body_t60_s)}, ring ${seconds(profile?.ring_t60_s)}`;
  }

  function closed() {
    hearing.stop();
    dialogs.close('hear');
  }

  function pressed(event: KeyboardEvent) {
    const step = { ArrowRight: 1, PageDown: 1, ArrowLeft: -1, PageUp: -1 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    hearing.choose(hearing.at + step);
    const now = hearing.version;
    if (now) notices.said = NAMES[now.version];
  }
</script>

<Modal open={dialogs.open === 'hear'} titleId="audition-title" width="w-[min(96vw,52rem)] max-w-none" onkeydown={pressed} onclose={closed}>
  {#if audition}
    <div class="mb-3 flex flex-wrap items-start gap-3">
      <div class="min-w-0 grow">
        <h2 id="audition-title" class="text-2xl">Hear it first: {drumKit.drum?.drum.name}</h2>
        <p class="soft">{hearing.title}. Change while it plays: it goes on at the same strike.</p>
      </div>
      <form method="dialog"><button class="btn btn-sm">Close <kbd>Esc</kbd></button></form>
    </div>
    <div class="grid gap-3 sm:auto-cols-fr sm:grid-flow-col" role="group" aria-label="Which is heard">
      {#each audition.versions as version, i (version.version)}
        <button
          class="rounded-box flex min-h-28 flex-col items-start justify-between gap-2 border-2 p-4 text-left {i === hearing.at
            ? 'border-primary bg-base-200'
            : 'border-base-300'}"
          aria-pressed={i === hearing.at}
          onclick={() => hearing.choose(i)}
        >
          <span class="flex w-full items-center gap-3 text-2xl">
            <span
              class="size-4 shrink-0 rounded-full border-2 {i === hearing.at ? 'bg-primary border-primary' : 'border-base-content'}"
              aria-hidden="true"
            ></span>
            {NAMES[version.version]}
          </span>
          <span class="soft">{lasts(version.version)}</span>
        </button>
      {/each}
    </div>
    <div class="mt-4 flex flex-wrap items-center gap-x-5 gap-y-3">
      <!-- svelte-ignore a11y_autofocus -->
      <button class="btn btn-primary btn-lg min-w-36" autofocus aria-busy={hearing.loading} onclick={() => hearing.toggle()}>
        {#if hearing.playing}<Pause class="size-6" aria-hidden="true" />Stop{:else}<Play class="size-6" aria-hidden="true" />Play{/if}
      </button>
      <p class="soft"><kbd>→</kbd> or a pedal: the next one. <kbd>←</kbd>: back.</p>
      <fieldset class="flex flex-wrap gap-x-5 gap-y-1">
        <legend class="sr-only">How it is played</legend>
        {#each WAYS as { way, name } (way)}
          <label class="flex items-center gap-2 py-1">
            <input
              type="radio"
              class="radio radio-primary"
              name="audition-way"
              checked={hearing.way === way}
              onchange={() => hearing.setWay(way)}
            />{name}
          </label>
        {/each}
      </fieldset>
      {#if hearing.way === 'groove'}
        <label class="flex items-center gap-2 py-1">
          <input
            type="checkbox"
            class="checkbox"
            checked={hearing.along}
            disabled={audition.backing.length === 0}
            onchange={(event) => hearing.setAlong(event.currentTarget.checked)}
          />{audition.backing.length > 0 ? `with ${audition.backing.map(({ name }) => name).join(', ')}` : 'no other drum was heard yet'}
        </label>
        <p class="soft">{Math.round(audition.bpm)} beats a minute</p>
      {/if}
    </div>
    <ul class="soft mt-4 grid gap-1 text-sm">
      {#each audition.sentences as sentence (sentence)}<li>{sentence}</li>{/each}
    </ul>
    <p class="mt-3 flex flex-wrap gap-2">
      {#each audition.versions as { version } (version)}
        <button
          class="btn btn-sm"
          onclick={() => hearing.save(version, `${drumKit.drum?.drum.name ?? 'drum'} ${NAMES[version].toLowerCase()}.wav`)}
          >{NAMES[version]} (WAV)</button
        >
      {/each}
    </p>
  {/if}
</Modal>
