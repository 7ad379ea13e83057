<script lang="ts">
  // After a check: the one small thing that brings the drum nearer to the wish.
  import Headphones from '@lucide/svelte/icons/headphones';
  import { api } from '../api/client';
  import { server } from '../shell/server.svelte';
  import type { Bench, NextStep } from '../api/types';
  import { hearing } from '../audition/audition.svelte';
  import { workbench } from './workbench.svelte';

  let { bench }: { bench: Bench } = $props();

  let next = $state.raw<NextStep>();
  let looking = $state(false);

  $effect(() => {
    const asked = bench;
    next = undefined;
    looking = true;
    void server
      .attempt(async () => {
        const answer = await api.nextStep(asked.drum.id);
        if (asked === bench) next = answer ?? undefined;
      })
      .finally(() => {
        if (asked === bench) looking = false;
      });
  });
  const DONE: Record<NextStep['step'], string> = {
    nothing: '',
    none_helps: '',
    add: 'It is on now',
    take_away: 'It is off now',
    exchange: 'It is changed',
  };

  function done() {
    if (next?.plan) void workbench.putOn(next.plan);
    else if (next?.step === 'take_away' && bench.treatment) void workbench.takeOff(bench.treatment.id);
  }
</script>

<section class="mt-2 min-h-16" aria-live="polite" aria-labelledby="next-title">
  <h4 id="next-title" class="text-lg font-semibold">Next</h4>
  {#if next}
    {@const plan = next.plan}
    <p class="text-lg">{next.sentence}</p>
    {#if DONE[next.step]}
      <div class="no-print mt-2 flex flex-wrap gap-2">
        {#if plan}
          <button class="btn" disabled={hearing.loading} onclick={() => void hearing.open(plan)}
            ><Headphones class="size-5" aria-hidden="true" />Hear it first</button
          >
        {/if}
        <button class="btn btn-secondary" onclick={done}>{DONE[next.step]}</button>
      </div>
    {/if}
  {:else if looking}
    <p class="soft text-lg">Looking for the next step …</p>
  {:else}
    <p class="soft text-lg">It could not be worked out.</p>
  {/if}
</section>
