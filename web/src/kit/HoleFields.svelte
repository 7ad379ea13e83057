<script lang="ts">
  // Holes that a head already has, as it was bought or as somebody cut it.
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import type { Port } from '../api/types';
  import { angleOf, hour } from './holes';

  interface Props {
    ports: Port[];
    /** Of the drum, in. */
    diameter: number;
    /** Which head it is. */
    head: string;
  }
  let { ports = $bindable(), diameter, head }: Props = $props();

  const MOST = 6;
  const MM_PER_IN = 25.4;
  /** Where holes usually are: off the middle, clear of the hoop. */
  const USUAL = { radius: 0.6, hour: 4 };

  const fromMiddle = (port: Port) => Math.round((port.radius * diameter * MM_PER_IN) / 2);

  const change = (index: number, port: Port) => (ports = ports.map((each, at) => (at === index ? port : each)));
  const number = (input: HTMLInputElement) => (Number.isFinite(input.valueAsNumber) ? input.valueAsNumber : undefined);
</script>

<fieldset class="grid gap-2">
  <legend class="sr-only">Holes in the {head}</legend>
  {#each ports as port, index (index)}
    <div class="border-base-300 rounded-box flex flex-wrap items-end gap-3 border p-2">
      <label class="grid w-28 gap-1 text-sm"
        ><span>Hole, in across</span><input
          class="input input-sm w-full"
          type="number"
          min="0.5"
          max={diameter}
          step="any"
          required
          value={port.diameter_in}
          onchange={(event) => change(index, { ...port, diameter_in: number(event.currentTarget) ?? port.diameter_in })}
        /></label
      >
      <label class="grid w-40 gap-1 text-sm"
        ><span>Its middle, mm from the head’s</span><input
          class="input input-sm w-full"
          type="number"
          min="0"
          max={Math.round((diameter * MM_PER_IN) / 2)}
          step="any"
          required
          value={fromMiddle(port)}
          onchange={(event) =>
            change(index, {
              ...port,
              radius: Math.min(1, (2 * (number(event.currentTarget) ?? fromMiddle(port))) / (diameter * MM_PER_IN)),
            })}
        /></label
      >
      {#if port.radius > 0}
        <label class="grid w-28 gap-1 text-sm"
          ><span>At</span><select
            class="select select-sm w-full"
            value={hour(port)}
            onchange={(event) => change(index, { ...port, angle_deg: angleOf(Number(event.currentTarget.value)) })}
          >
            {#each Array.from({ length: 12 }, (_, i) => i + 1) as clock (clock)}<option value={clock}>{clock} o’clock</option>{/each}
          </select></label
        >
      {/if}
      <button
        type="button"
        class="btn btn-ghost btn-square btn-sm"
        aria-label="No such hole"
        onclick={() => (ports = ports.filter((_, at) => at !== index))}><X class="size-5" aria-hidden="true" /></button
      >
    </div>
  {/each}
  {#if ports.length < MOST}
    <div class="flex flex-wrap items-center gap-3">
      <button
        type="button"
        class="btn btn-sm"
        onclick={() => (ports = [...ports, { diameter_in: diameter >= 20 ? 5 : 4, radius: USUAL.radius, angle_deg: angleOf(USUAL.hour) }])}
        ><Plus class="size-4" aria-hidden="true" />{ports.length === 0 ? `The ${head} has a hole` : 'Another hole'}</button
      >
      {#if ports.length > 0}<span class="soft text-sm">Not round? Give the width of a round hole that is as large.</span>{/if}
    </div>
  {/if}
</fieldset>
