<script lang="ts">
  // What another beater, another spot, or a beater left in the head would bring.
  import Headphones from '@lucide/svelte/icons/headphones';
  import type { BlowWay } from '../api/types';
  import { hearing } from '../audition/audition.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { seconds } from '../shell/figures';
  import { blows } from './blows.svelte';
  import { changed, reboundWords } from './say';

  $effect(() => {
    void drumKit.drumId;
    void workbench.bench;
    void blows.load();
  });

  const now = $derived(blows.page);

  function hear(way: BlowWay) {
    if (!now) return;
    void hearing.open({ placements: [], blow: { from: now.from, to: way.blow }, expected: way.expected, title: way.name });
  }
</script>

{#snippet row(way: BlowWay, of: 'beater' | 'spot')}
  <li class="rounded-box border p-2 {way.now ? 'border-primary' : 'border-base-300'}">
    <div class="grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-3">
      <p class="text-lg leading-tight first-letter:uppercase">
        {way.name}
        {#if way.now}<span class="soft">· as measured</span>{/if}
        {#if of === 'beater'}<span class="soft block text-base first-letter:uppercase"
            >{way.words}; on the head for about {Math.round(1000 * way.contact_s)} ms</span
          >{/if}
      </p>
      {#if !way.now}
        <button class="btn btn-sm no-print" disabled={hearing.loading} aria-label="Hear it first: {way.name}" onclick={() => hear(way)}
          ><Headphones class="size-5" aria-hidden="true" />Hear it</button
        >
      {/if}
    </div>
    {#if !way.now}
      <dl class="mt-1 grid gap-x-6 sm:grid-cols-3">
        <div class="flex gap-2">
          <dt class="soft">Body</dt>
          <dd>{changed(way.body)}</dd>
        </div>
        {#if way.ring}
          <div class="flex gap-2">
            <dt class="soft">Ring</dt>
            <dd>{changed(way.ring)}</dd>
          </div>
        {:else if now?.profile.ring_hz != null}
          <div class="flex gap-2">
            <dt class="soft">Ring</dt>
            <dd>not known: it fits no mode of the head</dd>
          </div>
        {/if}
        {#if of === 'beater'}
          <div class="flex gap-2">
            <dt class="soft">Click</dt>
            <dd>{changed(way.click)}</dd>
          </div>
        {/if}
      </dl>
    {/if}
  </li>
{/snippet}

{#if blows.refused}
  <p class="text-lg" role="alert">{blows.refused}</p>
{:else if !now}
  <div class="bg-base-200 h-72 rounded-box" aria-busy="true"></div>
{:else}
  <p class="soft mb-2">
    Against how you struck it when it was measured, at the same strength, with bounds that hold nine times in ten: the body as a whole, the
    ring against the body, and the click. How long beaters touch a head is from experience; no published source has it.
  </p>
  <div class="no-print mb-3 flex flex-wrap gap-x-4 gap-y-2">
    <label class="flex flex-wrap items-center gap-x-2 text-lg"
      >Measured with
      <select
        class="select w-auto text-lg"
        value={now.from.beater}
        onchange={(event) => blows.measuredWith({ beater: event.currentTarget.value as typeof now.from.beater })}
      >
        {#each now.all_beaters as beater (beater.kind)}<option value={beater.kind}>{beater.name}</option>{/each}
      </select>
    </label>
    <label class="flex flex-wrap items-center gap-x-2 text-lg"
      >struck
      <select
        class="select w-auto text-lg"
        value={String(now.from.spot)}
        onchange={(event) => blows.measuredWith({ spot: Number(event.currentTarget.value) })}
      >
        {#each now.all_spots as spot (spot.radius)}<option value={String(spot.radius)}>{spot.name}</option>{/each}
      </select>
    </label>
  </div>
  <h3 class="mb-1 text-xl">Another beater</h3>
  <ul class="mb-4 grid gap-1">
    {#each now.beaters as way (way.blow.beater)}{@render row(way, 'beater')}{/each}
  </ul>
  {#if now.left_in}
    {@const held = now.left_in}
    <h3 class="mb-1 text-xl">Left in the head</h3>
    <div class="rounded-box border-base-300 mb-4 border p-2">
      <p class="text-lg">
        Body {seconds(now.profile.body_t60_s)} → {seconds(held.expected.profile.body_t60_s)}
        {#if held.expected.body_t60_s}({seconds(held.expected.body_t60_s.low)} to {seconds(held.expected.body_t60_s.high)}){/if}, ring {seconds(
          held.expected.profile.ring_t60_s,
        )}: the foot holds the beater in the head, which takes length like a device does.
      </p>
      {#if now.rebound}
        <p class="first-letter:uppercase">
          {reboundWords(now.rebound)}. From a light foot to a firm one; how they press is from experience.
          {#if now.rebound.fewest > 0}Letting it come off the head makes one hit of it, and costs nothing.{/if}
        </p>
      {/if}
      <button class="btn btn-sm no-print mt-1" disabled={hearing.loading} onclick={() => hear(held)}
        ><Headphones class="size-5" aria-hidden="true" />Hear it left in the head</button
      >
    </div>
  {/if}
  <h3 class="mb-1 text-xl">Where to strike</h3>
  <ul class="grid gap-1">
    {#each now.spots as way (way.blow.spot)}{@render row(way, 'spot')}{/each}
  </ul>
{/if}
