<script lang="ts">
  // The strikes of a take: listen to them, leave them out, take them back in.
  import Play from '@lucide/svelte/icons/play';
  import { api, soundOf } from '../api/client';
  import type { TakeView } from '../api/types';
  import { workbench } from './workbench.svelte';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { seconds, fixed, within } from '../shell/figures';
  import Elsewhere from './Elsewhere.svelte';
  import { DYNAMIC, looking } from './look.svelte';
  import QualityBar from './QualityBar.svelte';

  let { takeId }: { takeId: number } = $props();

  let take = $state.raw<TakeView>();
  let player: HTMLAudioElement;

  $effect(() => {
    // The bench is read again whenever a strike changes; so is this.
    if (workbench.bench) void server.attempt(async () => (take = await api.take(takeId)));
  });

  function play(strike: number) {
    player.src = soundOf(strike);
    player.play().catch(() => notices.add('This browser cannot play the strike’s sound.', undefined, 'problem'));
  }
</script>

<audio bind:this={player} class="hidden"></audio>
{#if take?.summary.strikes_used === 0}<div class="mt-2"><Elsewhere {take} /></div>{/if}
<ol class="my-2 grid gap-1">
  {#each take?.strikes ?? [] as strike, index (strike.id)}
    <li class="flex flex-wrap items-center gap-x-3 {strike.dropped ? 'soft line-through' : ''}">
      <button
        class="btn btn-sm btn-square"
        aria-label="Play strike {index + 1}"
        disabled={!strike.has_sound}
        onclick={() => play(strike.id)}
      >
        <Play class="size-4" aria-hidden="true" />
      </button>
      <span
        >Strike {index + 1}{strike.dynamic ? `, ${within(DYNAMIC[strike.dynamic])}` : ''}: body {seconds(strike.profile.body_t60_s)}, ring {seconds(
          strike.profile.ring_t60_s,
        )}</span
      >
      <span class="soft text-sm">peak {fixed(strike.peak_dbfs, 1).replace('-', '−')} dBFS</span>
      {#each strike.advice as sentence (sentence)}<span class="text-warning basis-full text-sm">Left out: {sentence}</span>{/each}
      {#if !strike.has_sound}<span class="soft text-sm">its sound was let go</span>{/if}
      {#if strike.advice.length === 0}<div class="soft basis-full pl-11"><QualityBar quality={strike.quality} /></div>{/if}
      <button class="btn btn-sm btn-ghost ml-auto" disabled={!strike.has_sound} onclick={() => take && void looking.open(take, index)}
        >Look closer</button
      >
      <button class="btn btn-sm btn-ghost" onclick={() => void workbench.setDropped(strike.id, !strike.dropped)}>
        {strike.dropped ? 'Take it back in' : 'Leave it out'}
      </button>
    </li>
  {/each}
</ol>
