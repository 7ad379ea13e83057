<script lang="ts">
  // What to listen to and how, at any time: this drum or the whole kit, one strength or three.
  import { drumKit } from '../kit/drumKit.svelte';
  import { server } from '../shell/server.svelte';
  import HearingChoice from '../listening/HearingChoice.svelte';
  import { listening } from '../listening/listen.svelte';
  import { next } from './next.svelte';

  const { drum } = $derived(drumKit);
</script>

<details class="no-print mt-2">
  <summary class="soft">Listen again, or to the whole kit</summary>
  <div class="mt-2 grid gap-3">
    <!-- Where the next step is to listen, the choice stands there already. -->
    {#if next.step.action !== 'Listen'}<HearingChoice />{/if}
    <label class="flex items-center gap-2">
      <input type="checkbox" class="checkbox" bind:checked={listening.dynamics} />Soft, medium and hard: three good strikes each
      <kbd>H</kbd>
    </label>
    <label class="flex items-center gap-2">
      <input type="checkbox" class="checkbox" bind:checked={listening.sound} />A short sound announces each drum of the kit
    </label>
    <div class="flex flex-wrap gap-2">
      {#if drum}
        <button class="btn" disabled={!server.reachable} onclick={() => listening.begin(drum.drum.id, listening.hearing)}
          >Listen to the {drum.drum.name}</button
        >
      {/if}
      <button class="btn" disabled={!server.reachable} onclick={() => listening.beginKit(listening.hearing)}
        >Listen to the whole kit <kbd>W</kbd></button
      >
    </div>
  </div>
</details>
