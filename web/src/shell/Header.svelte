<script lang="ts">
  import Keyboard from '@lucide/svelte/icons/keyboard';
  import Moon from '@lucide/svelte/icons/moon';
  import Sun from '@lucide/svelte/icons/sun';
  import { app, type Place } from './app.svelte';
  import { dialogs } from './keys';
  import { look } from './theme.svelte';

  const places: { place: Place; name: string; key: string }[] = [
    { place: 'tonight', name: 'Tonight', key: 'G' },
    { place: 'tune', name: 'Tune', key: 'K' },
    { place: 'bench', name: 'Bench', key: 'B' },
    { place: 'shelf', name: 'Shelf', key: 'S' },
  ];
  // A drum's other end is looked at from the bench.
  const here = $derived(app.place === 'front' ? 'bench' : app.place);
</script>

<header class="{app.place === 'tonight' ? 'no-print' : ''} flex items-center gap-3 px-3 pt-2 pb-1 sm:gap-5 sm:px-5">
  <h1 class="flex items-center gap-2 text-lg whitespace-nowrap">
    <img src="/ember.svg" alt="" class="size-6" />
    <span class="max-[400px]:sr-only">Soft Ember</span>
  </h1>
  {#if app.kit?.demo}<span class="badge badge-outline soft hidden sm:inline-flex">Demonstration kit</span>{/if}
  <nav class="no-print ml-auto flex gap-1" aria-label="Places">
    {#each places as { place, name, key } (place)}
      <button
        class="btn btn-ghost rounded-none border-0 border-b-2 px-3 {here === place ? 'border-primary' : 'border-transparent'}"
        aria-current={here === place ? 'page' : undefined}
        onclick={() => (app.place = place)}>{name} <kbd class="hidden sm:inline">{key}</kbd></button
      >
    {/each}
  </nav>
  <div class="no-print flex gap-1">
    <button
      class="btn btn-ghost btn-square"
      onclick={() => look.toggle()}
      aria-label={look.theme === 'charcoal' ? 'Daylight colours' : 'Charcoal colours'}
    >
      {#if look.theme === 'charcoal'}<Sun class="size-5" aria-hidden="true" />{:else}<Moon class="size-5" aria-hidden="true" />{/if}
    </button>
    <!-- Where there is no room for it there is hardly a keyboard either. -->
    <button class="btn btn-ghost btn-square max-[400px]:hidden" onclick={() => dialogs.help()} aria-label="Keys">
      <Keyboard class="size-5" aria-hidden="true" />
    </button>
  </div>
</header>
