<script lang="ts">
  import { onMount } from 'svelte';
  import Minus from '@lucide/svelte/icons/minus';
  import Plus from '@lucide/svelte/icons/plus';
  import { KINDS } from '../kit/standing';
  import { api } from '../api/client';
  import type { DeviceKind, WhatIsLearned } from '../api/types';
  import { app } from '../shell/app.svelte';
  import { decibels, effort, when } from '../shell/figures';
  import { afterWords, scoreWords, strengthWords, timeWords } from './learned';
  import StrengthBar from './StrengthBar.svelte';

  let learned = $state.raw<WhatIsLearned>();
  onMount(() => void app.attempt(async () => (learned = await api.learned())));
  const strengthOf = (kind: DeviceKind) => learned?.strengths.find((strength) => strength.device === kind);
  const testsOf = (kind: DeviceKind) => (learned?.tests ?? []).filter((test) => test.devices.includes(kind));

  const MOST = 99;
  const set = (device: string, count: number) => void app.setShelf(device, Math.max(0, Math.min(MOST, Math.round(count) || 0)));
</script>

<h2 class="mt-3 text-3xl">Shelf</h2>
<p class="soft mb-4 max-w-3xl">
  What you own decides which plans are offered. Attack and time are from experience; no published source has them. How strong a device is
  begins as a guess too; each time you put one on and hit the drum again, it is learned.
</p>
{#if learned && learned.score.times > 0}
  <section class="bg-base-200 mb-4 max-w-3xl rounded-box p-4" aria-labelledby="score-title">
    <h3 id="score-title" class="text-xl">Did it come out as expected?</h3>
    {#each scoreWords(learned.score) as sentence (sentence)}<p>{sentence}</p>{/each}
  </section>
{/if}
<ul class="grid gap-3 md:grid-cols-2 xl:grid-cols-3">
  {#each app.shelf as item (item.kind)}
    <li class="border-base-300 flex flex-col gap-2 rounded-box border p-4 {item.count > 0 ? 'bg-base-200' : ''}">
      <div class="flex items-center gap-2">
        <h3 class="grow text-xl first-letter:uppercase">{item.name}</h3>
        <button
          class="btn btn-square"
          disabled={item.count === 0}
          aria-label="One {item.name} fewer"
          onclick={() => set(item.kind, item.count - 1)}
        >
          <Minus class="size-5" aria-hidden="true" />
        </button>
        <input
          class="input w-16 text-center text-xl"
          type="number"
          min="0"
          max={MOST}
          value={item.count}
          aria-label="{item.name}, how many you own"
          onchange={(event) => set(item.kind, event.currentTarget.valueAsNumber)}
        />
        <button
          class="btn btn-square"
          disabled={item.count >= MOST}
          aria-label="One {item.name} more"
          onclick={() => set(item.kind, item.count + 1)}
        >
          <Plus class="size-5" aria-hidden="true" />
        </button>
      </div>
      <p>{item.cost}</p>
      {#if strengthOf(item.kind)}
        {@const strength = strengthOf(item.kind)}
        {#if strength}
          <div class="min-h-20">
            <p class={strength.tests > 0 ? '' : 'soft'}>{strengthWords(strength)}</p>
            <StrengthBar {strength} />
          </div>
        {/if}
      {:else}
        <div class="min-h-20"></div>
      {/if}
      {#if testsOf(item.kind).length > 0}
        <details>
          <summary class="soft">What it was learned from</summary>
          <ul class="mt-1 grid gap-2 text-sm">
            {#each testsOf(item.kind) as test (test.treatment_id)}
              <li>
                <span class="font-semibold">{test.drum_name}</span>, {test.words}, {when(test.done_at)}<br />
                Body {timeWords(test.tested.body)}. Ring {timeWords(test.tested.ring)}.
                {afterWords(test.tested.after.find((after) => after.device === item.kind))}
              </li>
            {/each}
          </ul>
        </details>
      {/if}
      <ul class="soft text-sm">
        {#each item.amounts as amount (amount.name)}
          <li>{amount.name}: attack {decibels(-amount.attack_db)}, {effort(amount.seconds)} to put on</li>
        {/each}
      </ul>
      <p class="soft mt-auto text-sm">
        For {item.kinds.map((kind) => KINDS[kind].toLowerCase()).join(', ')}.{item.inside ? ' A head has to come off.' : ''}
      </p>
    </li>
  {/each}
</ul>
