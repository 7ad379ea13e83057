<script lang="ts">
  // What is asked before the first hit: which kit, what is to hand, what is played. Each can be skipped and said later.
  import { onMount } from 'svelte';
  import ArrowRight from '@lucide/svelte/icons/arrow-right';
  import Plus from '@lucide/svelte/icons/plus';
  import type { Drum, UsualKitInfo } from '../api/types';
  import { isMetal } from '../kit/kinds.svelte';
  import { view } from '../shell/view.svelte';
  import { deviceShelf } from '../shelf/deviceShelf.svelte';
  import { playedTonight } from '../tonight/playedTonight.svelte';
  import { genreTonight, playGenre } from '../shell/genre';
  import { dialogs } from '../shell/dialogs.svelte';
  import { beginning, shelfIsMet } from './beginning.svelte';
  import KitPicture from './KitPicture.svelte';
  import ShelfSets from './ShelfSets.svelte';

  onMount(() => void beginning.load());

  const step = $derived(view.beginning ?? 'kit');
  const TITLES = { kit: 'What kit do you play?', shelf: 'What have you got to put on it?', music: 'What do you play?' };
  const NUMBERS = { kit: 1, shelf: 2, music: 3 };

  const shown = ({ drums }: UsualKitInfo) => drums.filter((drum) => beginning.cymbals || !isMetal(drum.kind));
  const all = $derived(beginning.kits.map(shown));
  const size = ({ kind, diameter_in, depth_in }: Drum) => (isMetal(kind) ? `${diameter_in} in` : `${diameter_in} × ${depth_in} in`);
  const owned = $derived(deviceShelf.devices.filter((item) => item.count > 0 && !item.tuning));

  let title = $state<HTMLElement>();
  // Whoever uses keys or hears the page goes on where the question is.
  $effect(() => {
    if (step !== 'kit') title?.focus();
  });
</script>

<section class="mx-auto mt-4 max-w-6xl" aria-labelledby="beginning-title">
  <p class="soft">Question {NUMBERS[step]} of 3</p>
  <h2 id="beginning-title" class="mb-2 text-3xl outline-none" tabindex="-1" bind:this={title}>{TITLES[step]}</h2>
  {#if step === 'kit'}
    <p class="mb-4 max-w-prose text-lg">
      Take the one that comes nearest: sizes and heads are changed afterwards. Then you hit each drum a few times, and Soft Ember says what
      brings it to where the music wants it.
    </p>
    <label class="mb-4 flex items-center gap-3 text-lg">
      <input type="checkbox" class="toggle toggle-primary" bind:checked={beginning.cymbals} />With its cymbals
    </label>
    <ul class="grid gap-3 sm:grid-cols-2 lg:grid-cols-3">
      {#each beginning.kits as kit (kit.kit)}
        <li class="border-base-300 flex flex-col gap-2 rounded-box border p-4">
          <KitPicture drums={shown(kit)} kits={all} />
          <h3 class="text-xl">{kit.name}</h3>
          <p>{kit.about}</p>
          <ul class="grid grid-cols-2 gap-x-5 text-sm">
            {#each shown(kit) as drum (drum.name)}
              <li class="flex flex-wrap justify-between gap-x-2"><span>{drum.name}</span><span class="soft">{size(drum)}</span></li>
            {/each}
          </ul>
          <button
            class="btn btn-primary mt-auto self-start"
            aria-label="Take this one: {kit.name}"
            disabled={beginning.busy}
            onclick={() => void beginning.addKit(kit)}>Take this one</button
          >
        </li>
      {:else}
        <li class="bg-base-200 h-64 rounded-box sm:col-span-2 lg:col-span-3"></li>
      {/each}
    </ul>
    <p class="mt-4">
      <button class="btn" onclick={() => dialogs.show('new-drum')}><Plus class="size-5" aria-hidden="true" />Or add drums one by one</button
      >
    </p>
  {:else if step === 'shelf'}
    <p class="mb-4 max-w-prose text-lg">
      Plans are made of what you own. Say it in one press; what you do not have after all, you count down on the shelf.
    </p>
    <div class="mb-4 flex flex-wrap gap-2"><ShelfSets /></div>
    {#if owned.length > 0}
      <p class="mb-4 max-w-prose">
        On your shelf: {owned.map((item) => `${item.count} ${item.count > 1 ? item.plural : item.name}`).join(', ')}.
      </p>
    {/if}
    <div class="flex flex-wrap gap-2">
      <button class="btn {shelfIsMet(deviceShelf.devices) ? 'btn-primary' : ''}" onclick={() => (view.beginning = 'music')}
        >{shelfIsMet(deviceShelf.devices) ? 'Go on' : 'Later'}<ArrowRight class="size-5" aria-hidden="true" /></button
      >
    </div>
  {:else}
    <p class="mb-4 max-w-prose text-lg">This decides how long each drum may ring. Songs, tempo and place come later, under Tonight.</p>
    <ul class="mb-4 grid gap-2 sm:grid-cols-2 lg:grid-cols-4">
      {#each playedTonight.genres as genre (genre.code)}
        {@const chosen = genre.code === genreTonight()?.code}
        <li>
          <button
            class="btn h-full w-full justify-start py-2 text-left text-wrap {chosen ? 'btn-secondary' : ''}"
            aria-pressed={chosen}
            onclick={() => void playGenre(genre).then(() => (view.beginning = undefined))}>{genre.said_name}</button
          >
        </li>
      {/each}
    </ul>
    <button class="btn" onclick={() => (view.beginning = undefined)}>Later<ArrowRight class="size-5" aria-hidden="true" /></button>
  {/if}
</section>
