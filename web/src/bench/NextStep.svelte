<script lang="ts">
  import { server } from '../shell/server.svelte';
  import HearingChoice from '../listening/HearingChoice.svelte';
  import { next } from './next.svelte';

  const step = $derived(next.step);
</script>

<section class="no-print bg-base-200 my-2 flex flex-wrap items-center gap-x-6 gap-y-3 rounded-box px-4 py-3 sm:px-5" aria-label="Next step">
  <div class="min-w-0 grow basis-72">
    <h2 class="text-2xl leading-tight sm:text-3xl">{step.text}</h2>
    <p class="soft">{step.detail}</p>
  </div>
  <div class="flex flex-wrap items-center gap-3 max-sm:w-full">
    {#if step.action === 'Listen'}<HearingChoice />{/if}
    {#if step.action}
      <button class="btn btn-primary btn-lg min-w-40 text-xl max-sm:w-full" onclick={() => step.run()} disabled={!server.reachable}>
        {step.action} <kbd aria-hidden="true">→</kbd>
      </button>
    {/if}
  </div>
</section>
