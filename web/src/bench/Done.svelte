<script lang="ts">
  // What is on the drum, and expected beside found.
  import CircleCheck from '@lucide/svelte/icons/circle-check';
  import CircleX from '@lucide/svelte/icons/circle-x';
  import Headphones from '@lucide/svelte/icons/headphones';
  import type { Bench, CheckedFigure, TreatmentView } from '../api/types';
  import { hearing } from '../audition/audition.svelte';
  import { view } from '../shell/view.svelte';
  import { workbench } from './workbench.svelte';
  import { decibels, effort, hertz, percent, seconds, when, said } from '../shell/figures';
  import Steps from './Steps.svelte';
  import DeviceList from './DeviceList.svelte';
  import NextThing from './NextThing.svelte';
  import HeadPlan from '../layout/HeadPlan.svelte';
  import InDoubt from './InDoubt.svelte';

  let { bench, treatment }: { bench: Bench; treatment: TreatmentView } = $props();

  const NAMES: Record<CheckedFigure['figure'], { name: string; show: (value: number | null | undefined) => string }> = {
    body_t60: { name: 'Body', show: seconds },
    ring_t60: { name: 'Ring', show: seconds },
    ring_share: { name: 'Overtones', show: percent },
    body_pitch: { name: 'Body pitch', show: hertz },
    attack_index: { name: 'Attack', show: decibels },
  };
  const judged = $derived((bench.check ?? []).filter((row) => row.within != null));
  const right = $derived(judged.filter((row) => row.within).length);
  const verdict = $derived.by(() => {
    if (judged.length === 0) return 'The strikes do not tell enough to compare. Hit it again.';
    return right === judged.length ? 'It did what was expected.' : `${right} of ${judged.length} figures came out as expected.`;
  });
</script>

<article class="border-primary bg-base-200 mb-4 rounded-box border p-3" aria-labelledby="on-title">
  <h3 id="on-title" class="text-xl">On the drum</h3>
  <p class="soft text-sm">since {when(treatment.done_at)}</p>
  <div class="mt-2 flex flex-wrap gap-4 sm:flex-nowrap">
    <div
      class={treatment.plan.devices.some((device) => device.patches.some((patch) => patch.side === 'lower'))
        ? 'w-56 shrink-0'
        : 'w-32 shrink-0'}
    >
      <HeadPlan drum={bench.drum} devices={treatment.plan.devices} />
    </div>
    <div class="min-w-0 grow">
      {#if treatment.plan.front}
        <p class="text-lg font-semibold first-letter:uppercase">{treatment.plan.words}, on trial</p>
        <ol class="list-decimal pl-5">
          {#each treatment.plan.front_steps as step (step)}<li>{step}</li>{/each}
        </ol>
      {/if}
      <DeviceList devices={treatment.plan.devices} />
    </div>
  </div>
  {#if bench.in_doubt}<InDoubt drumId={bench.drum.id} doubt={bench.in_doubt} />{/if}
  {#if bench.check}
    <p class="mt-3 text-lg font-semibold">
      {bench.in_doubt ? `The take before it: ${verdict}` : verdict}
    </p>
    <table class="table text-base [&_td]:px-2 [&_th]:px-1">
      <caption class="sr-only">Expected beside found</caption>
      <thead>
        <tr><th scope="col"></th><th scope="col">Open</th><th scope="col">Expected</th><th scope="col">Found</th></tr>
      </thead>
      <tbody>
        {#each bench.check as row (row.figure)}
          {@const { name, show } = NAMES[row.figure]}
          <tr>
            <th scope="row" class="font-normal"
              >{name}{#if row.hz}<span class="soft block text-sm whitespace-nowrap">{hertz(row.hz)}</span>{/if}</th
            >
            <td class="soft sm:whitespace-nowrap">{show(row.open)}</td>
            <td class="sm:whitespace-nowrap">
              {show(row.expected)}
              {#if row.range}<span class="soft block text-sm whitespace-nowrap">{show(row.range.low)} – {show(row.range.high)}</span>{/if}
            </td>
            <td class="font-semibold whitespace-nowrap">
              {row.figure === 'ring_t60' && row.open != null && row.found == null ? said('gone') : show(row.found)}
              {#if row.within === true}<CircleCheck class="text-success inline size-5" aria-label="within what was expected" />
              {:else if row.within === false}<CircleX class="text-warning inline size-5" aria-label="outside of what was expected" />{/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if bench.rings_on}<p class="mt-2">{bench.rings_on.sentence}</p>{/if}
    {#if treatment.plan.front}
      <p class="mt-2 text-lg">Put it back as it was, and see what it means for a hole.</p>
      <button class="btn no-print mt-1" onclick={() => (view.place = 'front')}>Should I cut? <kbd>X</kbd></button>
    {:else}
      <NextThing {bench} />
    {/if}
  {:else if !bench.in_doubt}
    <p class="mt-3 text-lg">Hit it again to see whether it did what was expected.</p>
  {/if}
  {#if treatment.plan.devices.length > 0}
    <details class="mt-2">
      <summary class="soft">How to take it off, about {effort(treatment.plan.seconds_off)}</summary>
      <Steps devices={treatment.plan.devices} off />
    </details>
  {/if}
  <div class="no-print mt-3 flex flex-wrap gap-2">
    <button class="btn" disabled={hearing.loading} onclick={() => void hearing.open()}
      ><Headphones class="size-5" aria-hidden="true" />Hear the difference <kbd>A</kbd></button
    >
    <button class="btn" onclick={() => void workbench.takeOff(treatment.id)}>Take it off <kbd>O</kbd></button>
  </div>
</article>
