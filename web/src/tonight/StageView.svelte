<script lang="ts">
  import { within } from '../shell/figures';
  // Seen from two metres: what to change on which drum before the song that comes, what is on now, and the song's tempo.
  import Check from '@lucide/svelte/icons/check';
  import ChevronLeft from '@lucide/svelte/icons/chevron-left';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import Wrench from '@lucide/svelte/icons/wrench';
  import X from '@lucide/svelte/icons/x';
  import { dialogs } from '../shell/dialogs.svelte';
  import { night } from './night.svelte';
  import { called, gap, NOTES } from './say';
  import { stage } from './stage.svelte';

  const evening = $derived(night.evening);
  const step = $derived(stage.step);
  const song = $derived(step && evening?.songs[step.song]);
  const row = $derived(step && night.plan?.rows[step.song]);
  const followed = $derived(stage.steps[stage.at + 1]);
  const following = $derived(followed && evening?.songs[followed.song]);
  const changes = $derived(stage.changes);
  const swaps = $derived(row?.swaps ?? []);
  const look = $derived(night.plan && night.plan.looks.length > 1 && row?.look != null ? night.plan.looks[row.look]?.name : undefined);
  /** With many drums to change the words are smaller, so that all of them are seen at once. */
  const size = $derived(changes.length + swaps.length > 2 ? 'few' : 'one');
  const busiest = $derived.by(() => {
    const gaps = song?.song.gaps;
    const words = gaps && (Object.entries(gaps) as [string, keyof typeof NOTES | null][]).filter(([, value]) => value);
    return words && words.length > 0
      ? words.map(([drum, value]) => `${drum.replace('_', ' ')} in ${NOTES[value as keyof typeof NOTES]}s`).join(', ')
      : '';
  });

  let box = $state<HTMLElement>();
  $effect(() => {
    if (stage.open) box?.focus();
  });
</script>

{#if stage.open && evening && stage.steps.length > 0}
  <div
    bind:this={box}
    class="bg-base-100 fixed inset-0 z-50 flex flex-col gap-3 overflow-y-auto p-4 outline-none sm:px-8 sm:py-5"
    role="dialog"
    aria-modal="true"
    aria-label="Stage view"
    tabindex="-1"
  >
    <div class="flex items-center gap-3">
      <p class="soft text-xl whitespace-nowrap">{Math.min(stage.at + 1, stage.steps.length)} of {stage.steps.length}</p>
      <progress class="progress progress-primary grow" value={stage.at} max={stage.steps.length} aria-label="How far the evening is"
      ></progress>
      {#if stage.at > 0}<button class="btn btn-ghost" onclick={() => stage.restart()}>From the top</button>{/if}
      <button class="btn btn-ghost" aria-label="Something broke" onclick={() => dialogs.show('repairs')}
        ><Wrench class="size-6" aria-hidden="true" /><span class="max-sm:hidden">Something broke</span></button
      >
      <button class="btn btn-ghost btn-square" aria-label="Close the stage view" onclick={() => stage.close()}>
        <X class="size-7" aria-hidden="true" />
      </button>
    </div>
    <div class="flex grow flex-col justify-center gap-4" aria-live="polite">
      {#if step && song && row}
        {#if step.isBreak}
          <h2 class="title"><bdi>{song.after_break}</bdi></h2>
          <p class="soft text-2xl">{gap(song.gap_s)}, then <bdi>{song.song.title}</bdi></p>
        {:else}
          <div class="flex flex-wrap items-baseline justify-between gap-x-8">
            <h2 class="title"><bdi>{song.song.title}</bdi></h2>
            {#if look}<p class="soft text-3xl">{look} look</p>{/if}
            <p class="title display">{song.song.bpm} <span class="text-2xl">BPM</span></p>
          </div>
          <p class="soft text-xl">
            {song.song.meter ?? '4/4'}{song.song.feel === 'swung' ? ', swung' : ''}, {within(song.genre)}{busiest
              ? `; ${busiest}`
              : ''}{song.song.notes ? `. ${song.song.notes}` : ''}
          </p>
        {/if}
        {#if swaps.length > 0}
          <ul class="changes {size} grid gap-3">
            {#each swaps as { on, off }, index (index)}
              <li class="rounded-box border-primary border-2 px-4 py-2">
                <p class="soft text-2xl">Swap, in place of the {off}</p>
                <p class="display big">{on}</p>
              </li>
            {/each}
          </ul>
        {/if}
        {#if changes.length > 0}
          <div>
            <p class="mb-2 text-2xl {stage.asPlanned && row.over_s > 0 ? 'text-warning' : ''}">
              {stage.at === 0 ? 'Before you begin' : step.isBreak ? 'In the break' : 'Change now'}{look && step.isBreak
                ? `, for the ${within(look)} look`
                : ''}{stage.asPlanned && row.change_s > 0 ? `: ${gap(row.change_s)}` : ''}{stage.asPlanned &&
              row.over_s > 0 &&
              !step.isBreak
                ? ', too long for the gap'
                : ''}
            </p>
            <ul class="changes {size} grid gap-3">
              {#each changes as change (change.drum_id)}
                <li
                  class="rounded-box flex items-center gap-3 border-2 px-4 py-2 max-sm:items-start {change.done
                    ? 'border-success'
                    : 'border-primary'}"
                >
                  <div class="min-w-0 grow {change.done ? 'soft line-through' : ''}">
                    <p class="soft text-2xl">{change.name}{change.out ? ', not played in this song' : ''}</p>
                    <p class="display big">{called(change.setup)}</p>
                    {#if change.off.length > 0}<p class="where"><strong>Off:</strong> {change.off.join('; ')}</p>{/if}
                    {#if change.moved.length > 0}<p class="where"><strong>Move:</strong> {change.moved.join('; ')}</p>{/if}
                    {#if change.on.length > 0}<p class="where"><strong>On:</strong> {change.on.join('; ')}</p>{/if}
                  </div>
                  <button
                    class="btn btn-square btn-lg shrink-0 {change.done ? 'btn-success' : ''}"
                    aria-label="{change.name} is done"
                    aria-pressed={change.done}
                    onclick={() => stage.tick(change)}><Check class="size-7" aria-hidden="true" /></button
                  >
                </li>
              {/each}
            </ul>
          </div>
        {:else if swaps.length === 0}
          <p class="text-success big one">Nothing to change.</p>
        {/if}
        <p class="text-xl" aria-label="What is on now">
          <span class="soft">On now:</span>
          {#each stage.wanted as { drum_id, name, out } (drum_id)}
            <span class="mr-4 inline-block">{name} <span class="soft">{stage.words(drum_id)}{out ? ', not played' : ''}</span></span>
          {/each}
        </p>
      {:else}
        <h2 class="title">That was the evening.</h2>
        <p class="text-2xl">Rest your ears; gel pads are rinsed, tape comes off while it is warm.</p>
      {/if}
    </div>
    <div class="bg-base-100 sticky -bottom-4 flex items-center justify-between gap-4 py-2 sm:-bottom-5">
      <button class="btn btn-lg" disabled={stage.at === 0} onclick={() => stage.back()}>
        <ChevronLeft class="size-6" aria-hidden="true" /><span class="sr-only">Back</span><kbd class="max-sm:hidden">Page Up</kbd>
      </button>
      {#if followed && following}
        <p class="soft truncate text-xl max-sm:hidden">then <bdi>{followed.isBreak ? following.after_break : following.song.title}</bdi></p>
      {/if}
      <div class="flex gap-2">
        {#if changes.some((change) => !change.done)}
          <button class="btn btn-lg" onclick={() => stage.next(false)}>Not done <kbd class="max-sm:hidden">X</kbd></button>
        {/if}
        <button class="btn btn-primary btn-lg" disabled={stage.at >= stage.steps.length} onclick={() => stage.next()}>
          Next <kbd class="max-sm:hidden">Page Down</kbd><ChevronRight class="size-6" aria-hidden="true" />
        </button>
      </div>
    </div>
  </div>
{/if}

<style>
  .title {
    font-size: clamp(1.75rem, 4vw, 3.25rem);
    line-height: 1.05;
  }

  /* On a phone, which is held, the places are read from near. */
  .where {
    font-size: 1rem;
    line-height: 1.3;

    @media (width >= 40rem) {
      font-size: 1.25rem;
    }
  }

  .changes {
    grid-template-columns: repeat(auto-fit, minmax(min(30rem, 100%), 1fr));
  }

  /* Read from two metres: capitals of 16 minutes of arc are 9.3 mm high, about 35 px on a usual screen. */
  .big {
    line-height: 1.1;
  }

  .one .big,
  .big.one {
    font-size: clamp(2rem, 6vw, 3.5rem);
  }

  .few .big {
    font-size: clamp(1.75rem, 5vw, 3.4rem);
  }
</style>
