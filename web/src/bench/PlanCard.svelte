<script lang="ts">
  import Headphones from '@lucide/svelte/icons/headphones';
  import type { KeptDrum, PlanView, TakeView } from '../api/types';
  import { hearing } from '../audition/audition.svelte';
  import { hasHeads, isMetal } from '../kit/kinds.svelte';
  import { layout } from '../layout/layout.svelte';
  import { workbench } from './workbench.svelte';
  import { deviceShelf } from '../shelf/deviceShelf.svelte';
  import { view } from '../shell/view.svelte';
  import { decibels, effort, seconds, said } from '../shell/figures';
  import { driftWords, pitchCost, SCHOOLS, tollWords } from './say';
  import DeviceList from './DeviceList.svelte';
  import FromTo from './FromTo.svelte';
  import Steps from './Steps.svelte';
  import HeadPlan from '../layout/HeadPlan.svelte';

  interface Props {
    plan: PlanView;
    index: number;
    drum: KeptDrum;
    open: TakeView;
    /** Whether there is another plan to choose. */
    choosable: boolean;
    /** What it needs that is not on the shelf. */
    missing?: string[] | undefined;
  }
  let { plan, index, drum, open, choosable, missing }: Props = $props();

  const shown = $derived(!choosable || workbench.planShown === index);
  const before = $derived(open.summary.profile);
  const expected = $derived(plan.expected);
  /** How long a tone lasts with it; what is gone lasts no more. */
  const lasts = (from: number | null | undefined, to: number | null | undefined) =>
    from != null && to == null ? said('gone') : seconds(to);
  const metal = $derived(isMetal(drum.kind));
  /** Of a cymbal what sounds on above its undertone is its wash. */
  const ringWord = $derived(metal ? 'Wash' : 'Ring');
  const tolls = $derived(tollWords(plan.devices));
  const mayTurn = $derived(
    deviceShelf.devices.some((item) => item.kind === 'rods_turned' && item.count > 0 && item.kinds.includes(drum.kind)),
  );
  const drift = $derived(hasHeads(drum.kind) ? driftWords(plan, mayTurn) : '');
</script>

<article class="rounded-box border {shown ? 'p-3' : 'px-3 py-2'} {shown && choosable ? 'border-primary' : 'border-base-300'}">
  <label class="flex cursor-pointer flex-wrap items-center gap-x-3">
    {#if choosable}
      <input type="radio" class="radio radio-primary no-print" name="plan" value={index} bind:group={workbench.planShown} />
    {/if}
    <span class="min-w-32 flex-1">
      <h3 class="text-xl">{plan.title}</h3>
      {#if !shown}<span class="block first-letter:uppercase">{plan.words}</span>{/if}
    </span>
    {#if shown}
      <span class="soft text-sm whitespace-nowrap">{SCHOOLS[plan.school]}</span>
    {:else}
      <span class="text-right whitespace-nowrap">
        <span class="soft">{ringWord}</span> <span class="display">{lasts(before.ring_t60_s, expected.profile.ring_t60_s)}</span>
        {#if !metal}
          <span class="soft ml-1">Body</span> <span class="display">{lasts(before.body_t60_s, expected.profile.body_t60_s)}</span>
        {/if}
        <span class="soft block text-sm">attack {decibels(-expected.attack_lost_db)}, {effort(plan.seconds)} to put on</span>
      </span>
    {/if}
  </label>
  {#if shown}
    {@render whole()}
  {/if}
</article>

{#snippet whole()}
  {#if plan.first}<p class="border-warning mt-2 border-l-4 pl-3">{plan.first}</p>{/if}
  {#if missing}<p class="mt-1 text-lg">Not on your shelf: {missing.join(', ')}.</p>{/if}
  <div class="mt-2 flex flex-wrap gap-x-4 gap-y-3">
    <div class={plan.devices.some((device) => device.patches.some((patch) => patch.side === 'lower')) ? 'w-56 shrink-0' : 'w-32 shrink-0'}>
      <HeadPlan {drum} devices={plan.devices} />
    </div>
    <div class="min-w-36 flex-1">
      <DeviceList devices={plan.devices} />
      <dl class="mt-2 grid gap-1">
        <FromTo name={ringWord} hz={before.ring_hz} from={before.ring_t60_s} to={expected.profile.ring_t60_s} range={expected.ring_t60_s} />
        {#if !metal}
          <FromTo name="Body" from={before.body_t60_s} to={expected.profile.body_t60_s} range={expected.body_t60_s} />
        {/if}
      </dl>
      {#if expected.rings_on}<p class="soft mt-1 text-sm">{expected.rings_on.sentence}</p>{/if}
    </div>
  </div>
  <p class="soft mt-2 text-sm">
    Costs: attack {decibels(-expected.attack_lost_db)}{expected.click_gained_db > 0
      ? ` (click +${decibels(expected.click_gained_db)})`
      : ''}{pitchCost(expected.pitch_cents)}, about {effort(plan.seconds)} to put on and {effort(plan.seconds_off)} to take off{#if tolls.length > 0};
      {tolls.join(', ')}{/if}.
  </p>
  <p class="mt-1">{plan.why}</p>
  {#if drift}<p class="mt-1">{drift}</p>{/if}
  <details class="print-open mt-1">
    <summary class="soft">How to put it on</summary>
    <Steps devices={plan.devices} />
  </details>
  <div class="no-print mt-3 grid grid-cols-2 gap-2">
    <button class="btn text-lg" disabled={hearing.loading} onclick={() => void hearing.open(plan)}
      ><Headphones class="size-5" aria-hidden="true" />Hear it first{#if !workbench.bench?.treatment && !missing && !layout.active && index === workbench.planShown}
        <kbd class="max-sm:hidden">A</kbd>{/if}</button
    >
    {#if missing}
      <button class="btn text-lg" onclick={() => (view.place = 'shelf')}>Open the shelf <kbd>S</kbd></button>
    {:else}
      <button class="btn btn-secondary text-lg" onclick={() => void workbench.putOn(plan)}
        >It is on{#if !workbench.bench?.treatment && !layout.active && index === workbench.planShown}
          <kbd class="max-sm:hidden">D</kbd>{/if}</button
      >
    {/if}
  </div>
{/snippet}
