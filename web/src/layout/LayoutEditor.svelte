<script lang="ts">
  // Devices laid out by hand, with what they should do beside them.
  import { untrack } from 'svelte';
  import Headphones from '@lucide/svelte/icons/headphones';
  import Plus from '@lucide/svelte/icons/plus';
  import RotateCcw from '@lucide/svelte/icons/rotate-ccw';
  import RotateCw from '@lucide/svelte/icons/rotate-cw';
  import Trash from '@lucide/svelte/icons/trash-2';
  import type { DeviceKind, KeptDrum, TakeView } from '../api/types';
  import { hearing } from '../audition/audition.svelte';
  import FromTo from '../bench/FromTo.svelte';
  import { otherHead } from '../kit/kinds.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { deviceShelf } from '../shelf/deviceShelf.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { nameOf } from '../shelf/learned';
  import { pitchCost } from '../bench/say';
  import { decibels, effort, hertz, within } from '../shell/figures';
  import HeadPlan from './HeadPlan.svelte';
  import { layout } from './layout.svelte';

  let { drum, open }: { drum: KeptDrum; open: TakeView } = $props();

  // Plans are new whenever the wish or the drum is; the layout then means something else too.
  $effect(() => {
    if (workbench.plans) untrack(() => layout.refresh());
  });

  const TURN_DEG = 15;
  const SHIFT = 0.05;
  const plan = $derived(layout.plan);
  const before = $derived(open.summary.profile);
  const device = $derived(layout.devices[layout.selected]);
  const placement = $derived(layout.placements[layout.selected]);
  /** What it could be swapped for: whatever else the shelf has left, but for turns, which shorten nothing. */
  const exchanges = $derived(layout.spare.filter((item) => item.kind !== placement?.device && !item.tuning));
  const amounts = $derived(deviceShelf.devices.find((item) => item.kind === placement?.device)?.amounts ?? []);
</script>

<article class="border-primary rounded-box mb-4 border-2 p-3" aria-labelledby="layout-title">
  <div class="flex items-baseline gap-3">
    <h3 id="layout-title" class="grow text-xl">Lay it out yourself</h3>
    <button class="btn btn-sm" onclick={() => layout.close()}>Close <kbd>Y</kbd></button>
  </div>
  <p class="soft text-sm">Drag, or choose a device and use the arrow keys. What it should do follows at once.</p>
  <div class="mx-auto my-2 max-w-72">
    <HeadPlan
      {drum}
      devices={layout.devices}
      nodal={plan?.nodal}
      selected={layout.selected}
      grab={(index) => {
        if (layout.selected !== index) layout.selected = index;
        layout.mark();
      }}
      move={(index, at) => layout.move(index, at)}
      nudge={(turn, inwards) => layout.nudge(turn, inwards)}
      remove={(index) => layout.remove(index)}
    />
  </div>
  {#if plan?.nodal}
    <p class="soft text-sm">
      Dashed: where the head stands still for the ring at {hertz(plan.nodal.hz)}{plan.nodal.diameters_deg.length > 0
        ? ', of the two such tones the one that rings on'
        : ''}. A device lying there does nothing to it.
    </p>
  {/if}
  {#if layout.problem}<p class="border-warning my-2 border-l-4 pl-3" role="alert">{layout.problem}</p>{/if}
  {#if device && placement}
    <fieldset class="mt-2">
      <legend class="font-semibold first-letter:uppercase">{device.name}: {device.place}</legend>
      <div class="mt-1 flex flex-wrap items-center gap-2">
        {#if device.has_angle}
          <button class="btn btn-square" aria-label="Turn it clockwise" onclick={() => layout.nudge(-TURN_DEG, 0)}
            ><RotateCw class="size-5" aria-hidden="true" /></button
          >
          <button class="btn btn-square" aria-label="Turn it anticlockwise" onclick={() => layout.nudge(TURN_DEG, 0)}
            ><RotateCcw class="size-5" aria-hidden="true" /></button
          >
        {/if}
        {#if device.has_radius}
          <button class="btn" onclick={() => layout.nudge(0, SHIFT)}>Inwards</button>
          <button class="btn" onclick={() => layout.nudge(0, -SHIFT)}>Outwards</button>
        {/if}
        {#if amounts.length > 1}
          <select
            class="select w-auto max-w-full"
            aria-label="Amount"
            value={placement.amount}
            onchange={(event) => layout.setAmount(layout.selected, Number(event.currentTarget.value))}
          >
            {#each amounts as amount, i (amount.name)}<option value={i}>{amount.name}</option>{/each}
          </select>
        {/if}
        {#if device.other_head_too}
          <label class="flex items-center gap-2">
            <input
              type="checkbox"
              class="toggle"
              checked={placement.other_head ?? false}
              onchange={(event) => layout.setOtherHead(layout.selected, event.currentTarget.checked)}
            />on the {within(otherHead(drum.kind))}
          </label>
        {/if}
        {#if exchanges.length > 0}
          <select
            class="select w-auto max-w-full"
            aria-label="Swap the {device.name} for"
            value=""
            onchange={(event) => layout.exchange(layout.selected, event.currentTarget.value as DeviceKind)}
          >
            <option value="" disabled>swap it for …</option>
            {#each exchanges as item (item.kind)}<option value={item.kind}>{nameOf(item)}</option>{/each}
          </select>
        {/if}
        <button class="btn btn-square" aria-label="Take the {device.name} away" onclick={() => layout.remove(layout.selected)}
          ><Trash class="size-5" aria-hidden="true" /></button
        >
      </div>
    </fieldset>
  {/if}
  <div class="mt-3 flex flex-wrap gap-2" role="group" aria-label="Add a device">
    {#each layout.addable as item (item.kind)}
      <button class="btn btn-sm" onclick={() => void layout.add(item.kind)}><Plus class="size-4" aria-hidden="true" />{nameOf(item)}</button
      >
    {:else}
      <p class="soft text-sm">
        {!layout.full
          ? 'Your shelf has nothing more for this drum.'
          : `That is the most: three devices${drumKit.hasOneBolt(drum.id) ? '' : ' and a turn of every rod'}.`}
      </p>
    {/each}
  </div>
  {#if plan && layout.placements.length > 0}
    <dl class="mt-3 grid gap-1">
      <FromTo
        name="Ring"
        hz={before.ring_hz}
        from={before.ring_t60_s}
        to={plan.expected.profile.ring_t60_s}
        range={plan.expected.ring_t60_s}
      />
      <FromTo name="Body" from={before.body_t60_s} to={plan.expected.profile.body_t60_s} range={plan.expected.body_t60_s} />
    </dl>
    {#if plan.expected.rings_on}<p class="mt-1">{plan.expected.rings_on.sentence}</p>{/if}
    <p class="mt-1">{plan.why}</p>
    <p class="soft text-sm">
      Costs: attack {decibels(-plan.expected.attack_lost_db)}{pitchCost(plan.expected.pitch_cents)}, about {effort(plan.seconds)} to put on and
      {effort(plan.seconds_off)} to take off.
    </p>
    <div class="mt-3 grid grid-cols-2 gap-2">
      <button class="btn" disabled={layout.busy || layout.problem !== ''} onclick={() => void layout.improve()}>Improve from here</button>
      <button class="btn" disabled={!layout.canUndo} onclick={() => void layout.undo()}>Step back</button>
      <button class="btn text-lg" disabled={hearing.loading || layout.problem !== ''} onclick={() => void hearing.open(plan)}
        ><Headphones class="size-5" aria-hidden="true" />Hear it first <kbd>A</kbd></button
      >
      <button class="btn btn-secondary text-lg" disabled={layout.problem !== ''} onclick={() => void layout.putOn()}
        >It is on <kbd>D</kbd></button
      >
    </div>
  {:else}
    <p class="mt-3 text-lg">Nothing lies on the head yet: add a device.</p>
  {/if}
</article>
