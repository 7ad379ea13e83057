<script lang="ts">
  import { onMount } from 'svelte';
  import Minus from '@lucide/svelte/icons/minus';
  import Plus from '@lucide/svelte/icons/plus';
  import ShelfSets from '../beginning/ShelfSets.svelte';
  import { word } from '../kit/kinds.svelte';
  import { api } from '../api/client';
  import type { DeviceKind, DrumState, KeptDrum, ShelfDevice, WhatIsLearned } from '../api/types';
  import { layout } from '../layout/layout.svelte';
  import { server } from '../shell/server.svelte';
  import { deviceShelf } from './deviceShelf.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { view } from '../shell/view.svelte';
  import { notices } from '../shell/notices.svelte';
  import { decibels, effort, when } from '../shell/figures';
  import { afterWords, exponentWords, headsWords, madeWords, massWords, nameOf, scoreWords, strengthWords, timeWords } from './learned';
  import { ownWords } from '../bench/say';
  import { NOT_HERE } from './notHere';
  import OwnThing from './OwnThing.svelte';
  import StrengthBar from './StrengthBar.svelte';

  let learned = $state.raw<WhatIsLearned>();
  onMount(() => void server.attempt(async () => (learned = await api.learned())));
  const strengthOf = (kind: DeviceKind) => learned?.strengths.find((strength) => strength.device === kind);
  const testsOf = (kind: DeviceKind) => (learned?.tests ?? []).filter((test) => test.devices.includes(kind));

  const OWN_PLACES = 8;
  const own = $derived(deviceShelf.devices.filter((item) => item.made));
  let entering = $state(false);
  let changing = $state<DeviceKind>();

  /** The drum that a device is tried on: the one on the bench, or the first that was measured and that it is made for. */
  const schoolDrum = (item: ShelfDevice) => {
    const fits = (state: DrumState) => item.kinds.includes(state.drum.kind) && state.standing !== 'unmeasured';
    const drums = (drumKit.kit?.drums ?? []).filter(fits);
    return drums.find((state) => state.drum.id === drumKit.drumId) ?? drums[0];
  };

  /** Goes to the bench with the next test of `item` laid out. */
  async function teach(item: ShelfDevice, drum: number) {
    await server.attempt(async () => {
      const lesson = await api.lesson(drum, item.kind);
      await workbench.choose(drum);
      view.place = 'bench';
      layout.begin(lesson.plan);
      notices.add(`Test ${lesson.test} of ${lesson.of}: lay it as drawn, say “It is on”, and hit the drum.`);
    });
  }

  let search = $state('');
  let role = $state<KeptDrum['kind'] | ''>('');
  /** Whatever was owned when the shelf was opened stands first; nothing moves away under the finger that counts it up. */
  const ownedFirst = [...deviceShelf.devices].sort((a, b) => Number(b.count > 0) - Number(a.count > 0)).map((item) => item.kind);
  const place = (item: ShelfDevice) => (ownedFirst.includes(item.kind) ? ownedFirst.indexOf(item.kind) : ownedFirst.length);
  const kinds = $derived([...new Set((drumKit.kit?.drums ?? []).map((state) => state.drum.kind))]);
  const shown = $derived(
    deviceShelf.devices
      .filter((item) => nameOf(item).toLowerCase().includes(search.trim().toLowerCase()) && (role === '' || item.kinds.includes(role)))
      .sort((a, b) => place(a) - place(b)),
  );
  /** What is not owned is told in a few words, until more is asked for. */
  let told = $state.raw<DeviceKind[]>([]);

  const MOST = 99;
  const set = (device: DeviceKind, count: number) => void deviceShelf.set(device, Math.max(0, Math.min(MOST, Math.round(count) || 0)));
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
<div class="no-print mb-4 flex flex-wrap items-end gap-x-4 gap-y-2">
  <label class="grid gap-1">
    <span class="soft">Find a thing</span>
    <input class="input w-56 text-lg" type="search" placeholder="Part of its name" bind:value={search} />
  </label>
  <label class="grid gap-1">
    <span class="soft">For</span>
    <select class="select w-44 text-lg" bind:value={role}>
      <option value="">every drum</option>
      {#each kinds as kind (kind)}<option value={kind}>{word(kind)}</option>{/each}
    </select>
  </label>
  <ShelfSets />
</div>
{#if shown.length === 0}<p class="mb-4 text-lg">Nothing is called that. Try another word, or “every drum”.</p>{/if}
<ul class="grid items-start gap-3 md:grid-cols-2 xl:grid-cols-3">
  {#each shown as item (item.kind)}
    {@const whole = item.count > 0 || told.includes(item.kind) || changing === item.kind}
    <li class="border-base-300 flex flex-col gap-2 rounded-box border {whole ? 'p-4' : 'px-4 py-2'} {item.count > 0 ? 'bg-base-200' : ''}">
      <div class="flex items-center gap-2">
        <h3 class="grow text-xl first-letter:uppercase">{nameOf(item)}</h3>
        {#if item.tuning}
          <label class="flex items-center gap-2">
            May be done
            <input
              class="toggle toggle-lg"
              type="checkbox"
              checked={item.count > 0}
              onchange={(event) => set(item.kind, event.currentTarget.checked ? 1 : 0)}
            />
          </label>
        {:else}
          <button
            class="btn btn-square"
            disabled={item.count === 0}
            aria-label="One {nameOf(item)} fewer"
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
            aria-label="{nameOf(item)}, how many you own"
            onchange={(event) => set(item.kind, event.currentTarget.valueAsNumber)}
          />
          <button
            class="btn btn-square"
            disabled={item.count >= MOST}
            aria-label="One {nameOf(item)} more"
            onclick={() => set(item.kind, item.count + 1)}
          >
            <Plus class="size-5" aria-hidden="true" />
          </button>
        {/if}
      </div>
      {#if item.made}<p class="text-lg">{madeWords(item.made)}</p>{/if}
      {#if whole}
        {@render about(item)}
      {:else}
        <p class="flex items-baseline gap-2">
          <span class="soft grow text-sm">{item.cost}</span>
          <button class="btn btn-sm btn-ghost" aria-label="More about {nameOf(item)}" onclick={() => (told = [...told, item.kind])}
            >More</button
          >
        </p>
      {/if}
    </li>
  {/each}
  <li class="border-base-300 no-print flex flex-col gap-2 rounded-box border border-dashed p-4">
    <h3 class="text-xl">Something of your own</h3>
    {#if entering}
      <OwnThing done={() => (entering = false)} />
    {:else if own.length >= OWN_PLACES}
      <p>The shelf holds {OWN_PLACES} things of your own. Remove one to add another.</p>
    {:else}
      <p>A folded bandana, a felt, a bar towel: measured and weighed, it is planned with like everything else.</p>
      <button class="btn self-start" onclick={() => (entering = true)}><Plus class="size-5" aria-hidden="true" />Add it</button>
    {/if}
  </li>
</ul>

{#snippet about(item: ShelfDevice)}
  <p>{item.cost}</p>
  <p class="soft text-sm">{ownWords(item)}</p>
  {#if strengthOf(item.kind)}
    {@const strength = strengthOf(item.kind)}
    {#if strength}
      <div class="min-h-20">
        <p class={strength.tests > 0 ? '' : 'soft'}>{strengthWords(strength)} {massWords(strength)} {exponentWords(strength)}</p>
        <StrengthBar {strength} />
        {#if headsWords(strength)}<p class="soft mt-1 text-sm">{headsWords(strength)}</p>{/if}
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
  {#if item.kind === 'rods_turned'}
    <p class="soft text-sm">
      {item.amounts.map((amount) => amount.name).join(', ')}; about {effort(item.amounts[0]?.seconds ?? 0)} to do
    </p>
  {:else}
    <ul class="soft text-sm">
      {#each item.amounts as amount, i (amount.name)}
        <li>
          {amount.name}: attack {decibels(-(item.attack_db[i] ?? amount.attack_db))}{amount.click_db > 0
            ? `, click +${decibels(amount.click_db)}`
            : ''}, {effort(amount.seconds)}
          {item.tuning ? 'to do' : 'to put on'}
        </li>
      {/each}
    </ul>
  {/if}
  {#if changing === item.kind}
    <OwnThing {item} done={() => (changing = undefined)} />
  {:else}
    <div class="no-print flex flex-wrap gap-2">
      {#if item.count > 0 && item.kind !== 'rods_turned' && schoolDrum(item)}
        {@const drum = schoolDrum(item)}
        <button class="btn btn-sm" onclick={() => drum && void teach(item, drum.drum.id)}>Test it on the {drum?.drum.name}</button>
      {/if}
      {#if item.made}
        <button class="btn btn-sm btn-ghost" onclick={() => (changing = item.kind)}>Change it</button>
        <button class="btn btn-sm btn-ghost" onclick={() => void deviceShelf.removeOwn(item)}>Remove it</button>
      {/if}
    </div>
  {/if}
  <p class="soft mt-auto text-sm">
    For {item.kinds.map((kind) => word(kind)).join(', ')}.{!item.inside
      ? ''
      : item.amounts.some((amount) => amount.outside)
        ? ' A head has to come off, but for what goes outside.'
        : ' A head has to come off.'}
  </p>
{/snippet}
<section class="mt-6 max-w-3xl" aria-labelledby="not-here-title">
  <h3 id="not-here-title" class="text-xl">What is not on this shelf</h3>
  <dl class="mt-2 grid gap-3">
    {#each NOT_HERE as { what, does, instead } (what)}
      <div>
        <dt class="font-semibold">{what}</dt>
        <dd>{does} <span class="soft">{instead}</span></dd>
      </div>
    {/each}
  </dl>
</section>
