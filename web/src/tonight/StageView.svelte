<script lang="ts">
  // Seen from two metres: the song that comes, its tempo, and what to change on which drum before it.
  import ChevronLeft from '@lucide/svelte/icons/chevron-left';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import X from '@lucide/svelte/icons/x';
  import { night } from './night.svelte';
  import { gap, NOTES } from './say';
  import { stage } from './stage.svelte';

  const evening = $derived(night.evening);
  const plan = $derived(night.plan);
  const song = $derived(evening?.songs[stage.at]);
  const row = $derived(plan?.rows[stage.at]);
  const following = $derived(evening?.songs[stage.at + 1]);
  const changes = $derived(
    (row?.cells ?? []).flatMap((cell, drum) => (cell.change ? [{ name: evening?.drums[drum]?.name, ...cell.change }] : [])),
  );
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

{#if stage.open && evening && plan}
  <div
    bind:this={box}
    class="bg-base-100 fixed inset-0 z-50 flex flex-col gap-4 overflow-y-auto p-4 outline-none sm:p-8"
    role="dialog"
    aria-modal="true"
    aria-label="Stage view"
    tabindex="-1"
  >
    <div class="flex items-center gap-3">
      <p class="soft text-2xl whitespace-nowrap">{Math.min(stage.at + 1, stage.count)} of {stage.count}</p>
      <progress class="progress progress-primary grow" value={stage.at} max={stage.count} aria-label="How far the evening is"></progress>
      <button class="btn btn-ghost btn-square btn-lg" aria-label="Close the stage view" onclick={() => stage.close()}>
        <X class="size-8" aria-hidden="true" />
      </button>
    </div>
    <div class="flex grow flex-col justify-center gap-6" aria-live="polite">
      {#if song && row}
        {#if song.after_break}<p class="soft text-2xl"><bdi>{song.after_break}</bdi> is over</p>{/if}
        <div class="flex flex-wrap items-baseline justify-between gap-x-8">
          <h2 class="title"><bdi>{song.song.title}</bdi></h2>
          <p class="tempo display">{song.song.bpm} <span class="text-2xl">BPM</span></p>
        </div>
        <p class="soft text-2xl">
          {song.song.meter ?? '4/4'}{song.song.feel === 'swung' ? ', swung' : ''}, {song.genre.toLowerCase()}{busiest ? `; ${busiest}` : ''}
        </p>
        {#if song.song.notes}<p class="text-2xl">{song.song.notes}</p>{/if}
        {#if changes.length > 0}
          <div>
            <p class="mb-2 text-2xl {row.over_s > 0 ? 'text-warning' : ''}">
              {stage.at === 0 ? 'Before you begin' : 'Change now'}: {gap(row.change_s)}{stage.at > 0
                ? ` of ${gap(song.gap_s)}`
                : ''}{row.over_s > 0 ? ', too long for the gap' : ''}
            </p>
            <ul class="changes grid gap-3">
              {#each changes as change, index (index)}
                <li class="border-primary rounded-box border-2 px-5 py-3">
                  <p class="display text-3xl">{change.name}</p>
                  {#if change.take_off}<p class="text-2xl"><strong>Off:</strong> {change.take_off}</p>{/if}
                  {#each change.put_on as thing, number (number)}<p class="text-2xl"><strong>On:</strong> {thing}</p>{/each}
                </li>
              {/each}
            </ul>
          </div>
        {:else}
          <p class="text-success text-3xl">Leave everything as it is.</p>
        {/if}
      {:else}
        <h2 class="title">That was the evening.</h2>
        <p class="text-2xl">Rest your ears; gel pads are rinsed, tape comes off while it is warm.</p>
      {/if}
    </div>
    <div class="flex items-center justify-between gap-4">
      <button class="btn btn-lg" disabled={stage.at === 0} onclick={() => stage.step(-1)}>
        <ChevronLeft class="size-6" aria-hidden="true" /><kbd>Page Up</kbd>
      </button>
      {#if following}<p class="soft truncate text-xl">then <bdi>{following.song.title}</bdi></p>{/if}
      <button class="btn btn-primary btn-lg" disabled={stage.at >= stage.count} onclick={() => stage.step(1)}>
        <span class="max-sm:sr-only">Next</span> <kbd>Page Down</kbd><ChevronRight class="size-6" aria-hidden="true" />
      </button>
    </div>
  </div>
{/if}

<style>
  .title {
    font-size: clamp(2.25rem, 6vw, 6rem);
    line-height: 1.05;
  }

  .changes {
    grid-template-columns: repeat(auto-fit, minmax(min(20rem, 100%), 1fr));
  }

  .tempo {
    font-size: clamp(2.25rem, 5vw, 5rem);
    line-height: 1.05;
  }
</style>
