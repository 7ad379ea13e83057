<script lang="ts">
  import { untrack } from 'svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import EveningView from './EveningView.svelte';
  import GenreList from './GenreList.svelte';
  import Microphones from './Microphones.svelte';
  import { night, type Part } from './night.svelte';
  import SongList from './SongList.svelte';
  import VenueList from './VenueList.svelte';

  const PARTS: { part: Part; name: string }[] = [
    { part: 'evening', name: 'Evening' },
    { part: 'songs', name: 'Songs' },
    { part: 'venues', name: 'Venues' },
    { part: 'genres', name: 'Genres' },
    { part: 'microphones', name: 'Microphones' },
  ];

  /** On paper the evening is its card and nothing else. */
  const card = $derived(night.part === 'evening' && night.plan !== undefined);

  /** The evening is worked out on the kit, which may come later than this view. */
  const isKitThere = $derived(drumKit.kit !== undefined);
  $effect(() => {
    if (isKitThere) untrack(() => void night.load());
  });
</script>

<div class="mt-2 mb-4 flex flex-wrap items-baseline gap-x-6 gap-y-2">
  <h2 class="text-2xl {card ? 'no-print' : ''}">Tonight</h2>
  <nav class="no-print flex flex-wrap gap-1" aria-label="Parts of tonight">
    {#each PARTS as { part, name } (part)}
      <button
        class="btn {night.part === part ? 'btn-secondary' : 'btn-ghost'}"
        aria-current={night.part === part ? 'page' : undefined}
        onclick={() => (night.part = part)}>{name}</button
      >
    {/each}
  </nav>
</div>
{#if !night.loaded || !drumKit.kit}
  <div class="bg-base-200 h-64 rounded-box"></div>
{:else if night.part === 'evening'}
  <EveningView />
{:else if night.part === 'songs'}
  <SongList />
{:else if night.part === 'venues'}
  <VenueList />
{:else if night.part === 'genres'}
  <GenreList />
{:else}
  <Microphones />
{/if}
