<script lang="ts">
  import { dialogs } from '../shell/dialogs.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import type { Genre } from '../api/types';
  import { playedTonight } from './playedTonight.svelte';
  import GenreEditor from './GenreEditor.svelte';

  const ORIGINS: Record<Genre['origin'], string> = { built_in: '', changed: 'changed by you', own: 'your own' };
</script>

<div class="mb-4 flex flex-wrap items-center gap-3">
  <button class="btn btn-primary" onclick={() => dialogs.show('genre')}><Plus class="size-5" aria-hidden="true" />Make your own</button>
  <p class="soft max-w-prose">
    From open to dead. What each asks for is common practice, with no published source: change it until it says what you mean.
  </p>
</div>
<ul class="grid gap-3 md:grid-cols-2 xl:grid-cols-3">
  {#each playedTonight.genres as genre (genre.code)}
    <li class="border-base-300 flex flex-col gap-1 rounded-box border p-4">
      <h3 class="flex items-baseline gap-2 text-xl">
        <span class="grow">{genre.said_name}</span>
        {#if ORIGINS[genre.origin]}<span class="badge badge-outline">{ORIGINS[genre.origin]}</span>{/if}
      </h3>
      <p>{genre.said_reason}</p>
      <p class="soft">{genre.school} school, usually {genre.usual_bpm} BPM and {genre.loudness.replace('_', ' ')}</p>
      <button class="btn btn-sm mt-auto self-start" onclick={() => dialogs.show('genre', genre.code)}
        >Edit <span class="sr-only">{genre.said_name}</span></button
      >
    </li>
  {/each}
</ul>
<GenreEditor />
