<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import { app } from '../shell/app.svelte';
  import { dialogs } from '../shell/keys';
  import DoLane from './DoLane.svelte';
  import HearLane from './HearLane.svelte';
  import NextStep from './NextStep.svelte';
  import WantLane from './WantLane.svelte';
</script>

{#if app.kit && app.kit.drums.length === 0}
  <section class="mx-auto mt-16 max-w-xl text-center">
    <h2 class="mb-3 text-3xl">An empty stage</h2>
    <p class="mb-6 text-lg">
      Add the first drum of your kit. Then hit it a few times: Soft Ember hears how long it rings, and says what brings it to where the
      music wants it.
    </p>
    <button class="btn btn-primary btn-lg" onclick={() => dialogs.addDrum()}><Plus class="size-6" aria-hidden="true" />Add a drum</button>
  </section>
{:else}
  <NextStep />
  <div class="grid gap-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,3fr)_minmax(0,4fr)] print:block">
    <HearLane />
    <WantLane />
    <DoLane />
  </div>
{/if}
