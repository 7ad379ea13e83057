<script lang="ts">
  // Where the hole goes, on the head as seen from outside; the template; and how to cut.
  import { fixed, said, within } from '../shell/figures';
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
  import CircleCheck from '@lucide/svelte/icons/circle-check';
  import CircleX from '@lucide/svelte/icons/circle-x';
  import { templateOf } from '../api/client';
  import type { FrontPage } from '../api/types';
  import { fronts } from './front.svelte';
  import { hour } from '../kit/holes';
  import { otherHead } from '../kit/kinds.svelte';
  import NumberField from '../shell/NumberField.svelte';

  let { page }: { page: FrontPage } = $props();

  const port = $derived(fronts.port);
  const radius = $derived((page.drum.diameter_in * 25.4) / 2);
  const angle = $derived((port.angle_deg * Math.PI) / 180);
  const [x, y] = $derived([port.radius * radius * Math.sin(angle), port.radius * radius * Math.cos(angle)]);
  const hole = $derived((port.diameter_in * 25.4) / 2);
  const place = $derived(fronts.place);
  const which = $derived(within(otherHead(page.drum.kind)));
  const lugs = $derived(Array.from({ length: page.drum.lugs }, (_, i) => (2 * Math.PI * (i + 0.5)) / page.drum.lugs));

  const STEP = 0.02;
  const TURN = 5;
  let dragging = $state(false);

  function toPoint(event: PointerEvent) {
    const svg = (event.currentTarget as SVGElement).closest('svg');
    const matrix = svg?.getScreenCTM();
    if (!matrix) return;
    const spot = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    move(Math.hypot(spot.x, spot.y) / radius, (Math.atan2(spot.x, spot.y) * 180) / Math.PI);
  }

  function move(to: number, degrees: number) {
    fronts.move({ radius: Math.min(1, Math.max(0, to)), angle_deg: (degrees + 360) % 360 });
  }

  function pressed(event: KeyboardEvent) {
    const step = { ArrowLeft: [0, -TURN], ArrowRight: [0, TURN], ArrowUp: [-STEP, 0], ArrowDown: [STEP, 0] }[event.key];
    if (!step) return;
    move(port.radius + (step[0] ?? 0), port.angle_deg + (step[1] ?? 0));
    event.preventDefault();
    event.stopPropagation();
  }
  const number = (event: Event) => Number((event.currentTarget as HTMLInputElement).value) || 0;
</script>

{#if page.front.state !== 'whole'}
  <p class="mb-3 text-lg">The {which} is open already. A hole is placed here for a whole head that is to be cut.</p>
{/if}
<div class="grid gap-4 md:grid-cols-[minmax(0,6fr)_minmax(0,6fr)]">
  <div class="min-w-0">
    <p class="soft mb-1">From outside, the floor below. Drag the hole, or use the arrow keys.</p>
    <svg
      viewBox="{-radius * 1.12} {-radius * 1.12} {radius * 2.24} {radius * 2.24}"
      class="mx-auto block w-full max-w-md touch-none select-none"
    >
      <circle r={radius * 1.03} fill="none" stroke="var(--soft)" stroke-width={radius * 0.045} />
      <circle r={radius} fill="color-mix(in oklab, var(--color-base-content) 12%, var(--color-base-100))" stroke="var(--soft)" />
      <circle r={radius - 25} fill="none" stroke="var(--soft)" stroke-dasharray="8 6" />
      {#each lugs as lug (lug)}
        <circle cx={radius * 1.08 * Math.sin(lug)} cy={radius * 1.08 * Math.cos(lug)} r={radius * 0.028} fill="var(--soft)" />
      {/each}
      {#if fronts.logoMm > 0}
        <circle r={fronts.logoMm / 2} fill="none" stroke="var(--color-base-content)" stroke-dasharray="3 5" />
        <text text-anchor="middle" dy="0.3em" font-size={radius * 0.08} fill="var(--color-base-content)">logo</text>
      {/if}
      <path d="M-8 0H8M0 -8V8" stroke="var(--soft)" stroke-width="2" />
      <g
        role="button"
        tabindex="0"
        aria-label="The hole, {port.diameter_in} in, at {hour(
          port,
        )} o’clock. Left and right arrows turn it, up and down take it in and out."
        class="cursor-grab outline-none focus-visible:[&>circle]:stroke-[6]"
        onpointerdown={(event) => {
          dragging = true;
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onpointermove={(event) => dragging && toPoint(event)}
        onpointerup={() => (dragging = false)}
        onpointercancel={() => (dragging = false)}
        onkeydown={pressed}
      >
        {#if fronts.ringMm > 0}<circle cx={x} cy={y} r={hole + fronts.ringMm} fill="var(--color-neutral)" stroke="var(--soft)" />{/if}
        <circle
          cx={x}
          cy={y}
          r={hole}
          fill="var(--bed)"
          stroke={place && !place.fits ? 'var(--color-error)' : 'var(--color-primary)'}
          stroke-width="4"
        />
      </g>
    </svg>
    {#if place}
      <p class="mt-2 text-center">
        {fixed(Math.abs(place.right_mm), 0)} mm {place.right_mm < 0 ? said('left') : said('right')},
        {fixed(Math.abs(place.up_mm), 0)} mm {place.up_mm < 0 ? said('below') : said('above')} the middle; {fixed(place.to_hoop_mm, 0)} mm to
        the hoop
      </p>
    {/if}
  </div>
  <div class="min-w-0">
    <div class="no-print grid grid-cols-2 gap-3">
      <label class="grid gap-1"
        ><span>Hole, in</span><input
          class="input w-full"
          type="number"
          min="0.5"
          step="0.5"
          value={port.diameter_in}
          oninput={(event) => fronts.move({ diameter_in: number(event) })}
        /></label
      >
      <NumberField label="Ring’s width, mm" min={0} max={80} step={1} bind:value={fronts.ringMm} oninput={() => void fronts.check()} />
      <NumberField label="Logo across, mm" min={0} step={10} bind:value={fronts.logoMm} oninput={() => void fronts.check()} />
      <label class="grid gap-1"
        ><span>Turned, ° from the floor</span><input
          class="input w-full"
          type="number"
          min="0"
          max="360"
          step="5"
          value={Math.round(port.angle_deg)}
          oninput={(event) => move(port.radius, number(event))}
        /></label
      >
      <label class="col-span-2 grid gap-1"
        ><span>Off the middle, {Math.round(100 * port.radius)} % of the way out</span><input
          class="range range-primary w-full"
          type="range"
          min="0"
          max="1"
          step="0.01"
          value={port.radius}
          oninput={(event) => move(number(event), port.angle_deg)}
        /></label
      >
    </div>
    {#if fronts.placeRefused}
      <p class="text-error mt-3 text-lg" role="alert">{fronts.placeRefused}</p>
    {:else if place}
      <ul class="mt-3 grid gap-1 text-lg" aria-live="polite">
        {#each place.checks as check (check.sentence)}
          <li class="flex items-start gap-2">
            {#if check.fits}<CircleCheck class="text-success mt-1 size-5 shrink-0" aria-label="fits" />
            {:else}<CircleX class="text-error mt-1 size-5 shrink-0" aria-label="does not fit" />{/if}<span>{check.sentence}</span>
          </li>
        {/each}
      </ul>
      <h3 class="mt-4 text-xl">Template in full size</h3>
      <div class="no-print mt-1 flex flex-wrap items-center gap-x-4 gap-y-2">
        <label class="flex items-center gap-2"
          ><span>Paper</span>
          <select class="select w-28" bind:value={fronts.paper}>
            <option value="a4">A4</option><option value="letter">Letter</option>
          </select></label
        >
        <label class="flex items-center gap-2"
          ><span>for the</span>
          <select class="select w-32" bind:value={fronts.side}>
            <option value="inside">inside</option><option value="outside">outside</option>
          </select></label
        >
        <a class="btn btn-secondary" href={templateOf(page.drum.id, 'pdf', fronts.hole)} target="_blank">PDF to print</a>
        <a class="btn" href={templateOf(page.drum.id, 'svg', fronts.hole)} target="_blank">SVG</a>
      </div>
      <p class="soft mt-1 text-sm">Print at 100 %, then measure the two check lines: 100 mm and 4 in.</p>
    {/if}
  </div>
</div>
<section class="mt-5" aria-labelledby="cutting-title">
  <div class="flex flex-wrap items-center gap-3">
    <h3 id="cutting-title" class="text-xl">Cutting</h3>
    <label class="no-print flex items-center gap-2"
      ><span>with a</span>
      <select
        class="select w-44"
        value={fronts.cutter}
        onchange={(event) => fronts.play({ cutter: event.currentTarget.value === 'rotary' ? 'rotary' : 'knife' })}
      >
        <option value="knife">craft knife</option><option value="rotary">rotary cutter</option>
      </select></label
    >
  </div>
  {#if page.advice.verdict !== 'would_help'}<p class="text-warning mt-1 text-lg">{page.advice.title}.</p>{/if}
  <ol class="mt-2 list-decimal pl-6 text-lg">
    {#each page.steps as { step, caution } (step)}
      <li class="mb-2">
        {step}
        {#if caution}<span class="text-warning flex items-start gap-2"
            ><TriangleAlert class="mt-1 size-5 shrink-0" aria-hidden="true" />{caution}</span
          >{/if}
      </li>
    {/each}
  </ol>
  {#if page.front.state === 'whole' && place?.fits}
    <button
      class="btn no-print mt-2"
      onclick={() =>
        void fronts.change(
          { state: 'ported', ports: [{ ...fronts.port }] },
          `Noted: a ${fronts.port.diameter_in} in hole was cut. Measure the drum again.`,
        )}>I have cut it: note it</button
    >
  {/if}
</section>
