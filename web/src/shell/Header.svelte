<script lang="ts">
  import HardDrive from '@lucide/svelte/icons/hard-drive';
  import Languages from '@lucide/svelte/icons/languages';
  import Keyboard from '@lucide/svelte/icons/keyboard';
  import Menu from '@lucide/svelte/icons/menu';
  import Moon from '@lucide/svelte/icons/moon';
  import Sun from '@lucide/svelte/icons/sun';
  import Wrench from '@lucide/svelte/icons/wrench';
  import { view, type Place } from './view.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { dialogs } from './dialogs.svelte';
  import { LANGUAGE, LANGUAGES, speak, type Language } from './language';
  import { look } from './theme.svelte';

  const places: { place: Place; name: string; key: string }[] = [
    { place: 'tonight', name: 'Tonight', key: 'G' },
    { place: 'tune', name: 'Tune', key: 'K' },
    { place: 'bench', name: 'Bench', key: 'B' },
    { place: 'shelf', name: 'Shelf', key: 'S' },
  ];
  // A drum's other end is looked at from the bench.
  const others = (Object.keys(LANGUAGES) as Language[]).filter((language) => language !== LANGUAGE);
  let menu = $state<HTMLDetailsElement>();

  function choose(what: () => void) {
    if (menu) menu.open = false;
    what();
  }

  function closeElsewhere(event: MouseEvent) {
    if (menu?.open && event.target instanceof Node && !menu.contains(event.target)) menu.open = false;
  }

  const here = $derived(view.place === 'front' ? 'bench' : view.place);
</script>

<header class="{view.place === 'tonight' ? 'no-print' : ''} flex items-center gap-1 px-3 pt-2 pb-1 sm:gap-5 sm:px-5">
  <h1 class="flex items-center gap-2 text-lg whitespace-nowrap">
    <img src="/ember.svg" alt="" class="size-6" />
    <span class="max-[30rem]:sr-only">Soft Ember</span>
  </h1>
  {#if drumKit.kit?.demo}<span class="badge badge-outline soft hidden lg:inline-flex">Demonstration kit</span>{/if}
  <nav class="no-print ml-auto flex sm:gap-1" aria-label="Places">
    {#each places as { place, name, key } (place)}
      <button
        class="btn btn-ghost rounded-none border-0 border-b-2 px-2 sm:px-3 {here === place ? 'border-primary' : 'border-transparent'}"
        aria-current={here === place ? 'page' : undefined}
        onclick={() => (view.place = place)}>{name} <kbd class="hidden md:inline">{key}</kbd></button
      >
    {/each}
  </nav>
  <details class="no-print dropdown dropdown-end" bind:this={menu}>
    <summary class="btn btn-ghost btn-square" aria-label="More"><Menu class="size-5" aria-hidden="true" /></summary>
    <ul class="menu dropdown-content bg-base-300 rounded-box z-30 w-64 text-base shadow-lg">
      <li>
        <button onclick={() => choose(() => look.toggle())}>
          {#if look.theme === 'charcoal'}<Sun class="size-5" aria-hidden="true" /> Daylight colours{:else}<Moon
              class="size-5"
              aria-hidden="true"
            /> Charcoal colours{/if}
          <kbd class="ml-auto">M</kbd>
        </button>
      </li>
      {#each others as language (language)}
        <li>
          <button lang={language} onclick={() => choose(() => speak(language))}
            ><Languages class="size-5" aria-hidden="true" />{LANGUAGES[language]}</button
          >
        </li>
      {/each}
      <li>
        <button onclick={() => choose(() => dialogs.show('storage'))}
          ><HardDrive class="size-5" aria-hidden="true" /> Storage <kbd class="ml-auto">Z</kbd></button
        >
      </li>
      <li>
        <button onclick={() => choose(() => dialogs.show('repairs'))}
          ><Wrench class="size-5" aria-hidden="true" /> Something broke <kbd class="ml-auto">.</kbd></button
        >
      </li>
      <li>
        <button onclick={() => choose(() => dialogs.show('keys'))}
          ><Keyboard class="size-5" aria-hidden="true" /> Keys <kbd class="ml-auto">?</kbd></button
        >
      </li>
    </ul>
  </details>
</header>
<svelte:window onclick={closeElsewhere} onkeydown={(event) => event.key === 'Escape' && menu && (menu.open = false)} />
