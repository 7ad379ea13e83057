<script lang="ts">
  import { LANGUAGE } from '../shell/language';
  // One bar a partial, low to high. The glow along a bar is its level as it decays; past the upright mark the band covers it.
  import { scaleLinear } from 'd3-scale';
  import type { Bench, PlanView } from '../api/types';
  import { hertz, seconds, fixed, said } from '../shell/figures';
  import { families, loudest, rows, wantedLength, type Layer, type Trail } from './trails';

  let { bench, plan }: { bench: Bench; plan: PlanView | undefined } = $props();

  const FEW = 7;
  // Sizes at the usual text size, px; the picture grows with it.
  const VALUE = 66;
  const TOP = 22;
  const GAP = 9;
  const BAR: Record<Layer, number> = { open: 12, expected: 7, found: 12 };
  const USUAL_TEXT = 16;
  const WORD: Record<Layer, string> = { open: 'open', expected: 'expected', found: 'found' };
  const RAMP = [0, 1, 2, 3, 4, 5, 6];
  const unique = $props.id();

  let wide = $state(560);
  let windowWidth = $state(0);
  const text = $derived(windowWidth >= 0 ? parseFloat(getComputedStyle(document.documentElement).fontSize) : USUAL_TEXT);
  /** Width in the picture's own units. */
  const width = $derived((wide * USUAL_TEXT) / text);
  let all = $state(false);

  const every = $derived(rows(bench, plan));
  const shown = $derived(all ? every : loudest(every, FEW));
  const pairs = $derived(families(shown));
  /** Room for the names; where two halves beat, how often stands to the left of them. */
  const nameRoom = $derived(pairs.length > 0 ? 98 : 78);
  const wanted = $derived(bench.wanted);
  const layers = $derived(
    (['open', 'expected', 'found'] as Layer[]).filter((layer) => every.some((row) => row.trails.some((t) => t.layer === layer))),
  );
  const PARTS = { body: said('body'), ring: said('ring') };
  const wantedText = (part: 'body' | 'ring') => {
    const range = wantedLength(wanted, part);
    return range ? `at most ${seconds(range.most)}` : 'any length';
  };
  const longest = $derived(
    Math.max(
      ...shown.flatMap((row) => row.trails.map((t) => Math.max(t.heard * 1.15, t.doubt?.high ?? 0))),
      ...(['body', 'ring'] as const).map((part) => (wantedLength(wanted, part)?.most ?? 0) * 1.15),
      0.1,
    ),
  );
  const x = $derived(
    scaleLinear()
      .domain([0, longest])
      .range([nameRoom, Math.max(width - VALUE, nameRoom + 60)]),
  );
  const heights = $derived(shown.map((row) => row.trails.reduce((sum, t) => sum + BAR[t.layer] + 2, GAP)));
  const tops = $derived(heights.map((_, i) => TOP + heights.slice(0, i).reduce((a, b) => a + b, 0)));
  const height = $derived(TOP + heights.reduce((a, b) => a + b, 0) + 6);

  const offset = (trails: Trail[], index: number) => trails.slice(0, index).reduce((sum, t) => sum + BAR[t.layer] + 2, 0);
  const end = (trail: Trail) => x(Math.min(longest, ((trail.levelDb + 60) / 60) * trail.t60));
  const heardText = (trails: Trail[]) => trails.map((t) => `${WORD[t.layer]} ${seconds(t.heard)}`).join(', ');
</script>

<svelte:window bind:innerWidth={windowWidth} />

<figure class="m-0">
  <div bind:clientWidth={wide} class="rounded-box overflow-hidden" style="background: var(--bed)">
    <svg
      width={wide}
      height={(height * text) / USUAL_TEXT}
      viewBox="0 0 {width} {height}"
      class="block"
      role="img"
      aria-label="Ember trails: how long each partial is heard. A table follows."
    >
      {#each x.ticks(Math.max(3, Math.round(width / 110))) as tick (tick)}
        <line x1={x(tick)} x2={x(tick)} y1={TOP - 4} y2={height} stroke="var(--bed-line)" />
        <text x={x(tick)} y="14" text-anchor="middle" font-size="12" fill="var(--bed-text)"
          >{tick === 0 ? '0 s' : tick.toLocaleString(LANGUAGE)}</text
        >
      {/each}
      {#each pairs as { at, beatHz } (at)}
        {@const [from, to] = [(tops[at] ?? 0) + 8, (tops[at + 1] ?? 0) + 8]}
        <path d="M9 {from} H4 V{to} H9" fill="none" stroke="var(--chalk)" stroke-width="1.5" />
        <text x="9" y={(from + to) / 2 + 4} font-size="12" fill="var(--bed-text)">{fixed(beatHz, 1)}/s</text>
      {/each}
      {#each shown as row, i (row.hz)}
        {@const y = tops[i] ?? 0}
        {@const inner = (heights[i] ?? 0) - GAP}
        <text x={nameRoom - 8} y={y + 12} text-anchor="end" font-size="14" fill="var(--chalk)" font-weight={row.part ? 700 : 400}
          >{hertz(row.hz)}</text
        >
        {#if row.part && inner > 20}
          <text x={nameRoom - 8} y={y + 27} text-anchor="end" font-size="12" fill="var(--bed-text)">{PARTS[row.part]}</text>
        {/if}
        {#each row.trails as trail, k (trail.layer)}
          {@const id = `${unique}-${i}-${k}`}
          {@const top = y + offset(row.trails, k)}
          {@const thick = BAR[trail.layer]}
          <linearGradient
            {id}
            gradientUnits="userSpaceOnUse"
            x1={x((trail.levelDb / 60) * trail.t60)}
            x2={x(((trail.levelDb + 60) / 60) * trail.t60)}
            y1="0"
            y2="0"
          >
            {#each RAMP as step (step)}<stop offset={step / 6} stop-color="var(--ember-{step})" />{/each}
          </linearGradient>
          <rect x={x(0)} y={top} width={Math.max(0, end(trail) - x(0))} height={thick} rx="2" fill="url(#{id})" opacity="0.3" />
          <rect x={x(0)} y={top} width={Math.max(0, x(trail.heard) - x(0))} height={thick} rx="2" fill="url(#{id})" />
          {#if trail.layer === 'expected'}
            <rect
              x={x(0)}
              y={top}
              width={Math.max(0, x(trail.heard) - x(0))}
              height={thick}
              rx="2"
              fill="none"
              stroke="var(--chalk)"
              stroke-dasharray="4 3"
            />
          {/if}
          <line x1={x(trail.heard)} x2={x(trail.heard)} y1={top - 1} y2={top + thick + 1} stroke="var(--chalk)" stroke-width="2" />
          {#if trail.doubt}
            <line
              x1={x(trail.doubt.low)}
              x2={x(Math.min(longest, trail.doubt.high))}
              y1={top + thick / 2}
              y2={top + thick / 2}
              stroke="var(--chalk)"
              stroke-width="1"
            />
          {/if}
          {#if trail.layer !== 'expected' || row.trails.length === 1}
            <text x={width - 8} y={top + thick - 1} text-anchor="end" font-size="13" fill="var(--chalk)">{seconds(trail.heard)}</text>
          {:else if row.trails.length === 2}
            <text x={width - 8} y={top + thick + 2} text-anchor="end" font-size="12" fill="var(--bed-text)">{seconds(trail.heard)}</text>
          {/if}
        {/each}
        {@const range = wantedLength(wanted, row.part === 'body' ? 'body' : 'ring')}
        {#if range}
          {@const { least, most } = range}
          <path
            d="M{x(most) - 6} {y - 3} H{x(most)} V{y + inner + 2} H{x(most) - 6}"
            fill="none"
            stroke="var(--chalk)"
            stroke-width="2.5"
            stroke-linejoin="round"
          />
          {#if row.part === 'body'}
            <path
              d="M{x(least) + 6} {y - 3} H{x(least)} V{y + inner + 2} H{x(least) + 6}"
              fill="none"
              stroke="var(--chalk)"
              stroke-width="2.5"
            />
          {/if}
        {/if}
      {/each}
    </svg>
  </div>
  <div class="sr-only">
    <table>
      <caption>How long each partial is heard</caption>
      <thead><tr><th>Partial</th><th>Heard for</th><th>Wanted</th></tr></thead>
      <tbody>
        {#each shown as row (row.hz)}
          <tr>
            <td
              >{hertz(row.hz)}
              {row.part ? PARTS[row.part] : ''}
              {row.motion}{row.beatsWith ? `, beats with ${hertz(row.beatsWith)}` : ''}</td
            >
            <td>{heardText(row.trails)}</td>
            <td>{wantedText(row.part === 'body' ? 'body' : 'ring')}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <figcaption class="soft mt-2 flex flex-wrap items-center gap-x-5 gap-y-1 text-sm">
    {#each layers as layer (layer)}
      <span class="flex items-center gap-2">
        <svg width="34" height="14" aria-hidden="true" style="background: var(--bed)">
          <rect x="1" y={7 - BAR[layer] / 2} width="30" height={BAR[layer]} fill="var(--ember-3)" />
          {#if layer === 'expected'}
            <rect x="1" y={7 - BAR[layer] / 2} width="30" height={BAR[layer]} fill="none" stroke="var(--chalk)" stroke-dasharray="4 3" />
          {/if}
        </svg>
        {WORD[layer]}{layer === 'expected' && !bench.treatment && plan ? ` of “${plan.title}”` : ''}
      </span>
    {/each}
    {#if wantedLength(wanted, 'ring')}<span class="flex items-center gap-2">
        <svg width="14" height="16" aria-hidden="true" style="background: var(--bed)"
          ><path d="M3 2H10V14H3" fill="none" stroke="var(--chalk)" stroke-width="2" /></svg
        >
        wanted
      </span>{/if}
    {#if pairs.length > 0}<span>Joined: two halves of one tone, and how often a second they beat.</span>{/if}
    <span>Upright mark: from here on the band covers it. Line across it: nine times in ten the true mark lies on that line.</span>
    {#if every.length > FEW}
      <button class="btn btn-sm btn-ghost no-print ml-auto" aria-expanded={all} onclick={() => (all = !all)}>
        {all ? 'Fewer partials' : `All ${every.length} partials`}
      </button>
    {/if}
  </figcaption>
</figure>
