<script lang="ts">
  import { LANGUAGE } from '../shell/language';
  // Level over time with the slopes found in it and the noise it ends in; other dynamics behind.
  import { scaleLinear } from 'd3-scale';
  import type { StrikeLook } from '../api/types';
  import type { Other } from './look.svelte';
  import { seconds, within } from '../shell/figures';

  let { look, others }: { look: StrikeLook; others: Other[] } = $props();

  const LEFT = 54;
  const RIGHT = 14;
  const TOP = 12;
  const HEIGHT = 280;
  const BOTTOM = 26;
  const DASHES = ['2 5', '8 4', '1 0'];

  let wide = $state(640);
  const peak = $derived(Math.max(...[look, ...others.map((other) => other.look)].map((each) => Math.max(...each.level_dbfs))));
  const floor = $derived(Math.max(look.noise_dbfs ?? -120, peak - 90));
  const last = $derived(Math.max(look.level_dbfs.length * look.step_s, 0.1));
  const x = $derived(
    scaleLinear()
      .domain([0, last])
      .range([LEFT, Math.max(wide - RIGHT, LEFT + 60)]),
  );
  const y = $derived(
    scaleLinear()
      .domain([peak, floor - 6])
      .range([TOP, HEIGHT - BOTTOM])
      .clamp(true),
  );
  const path = (of: StrikeLook) =>
    of.level_dbfs.map((level, n) => `${n === 0 ? 'M' : 'L'}${x(n * of.step_s).toFixed(1)} ${y(level).toFixed(1)}`).join('');
  /** From the hit to where it reaches the noise. */
  function slope(level: number, t60: number) {
    const low = floor - 6;
    const end = Math.min(last, ((level - low) / 60) * t60);
    // Above the top of the picture it is not drawn.
    const begin = Math.max(0, ((level - peak) / 60) * t60);
    return { x1: x(begin), y1: y(level - (60 * begin) / t60), x2: x(end), y2: y(level - (60 * end) / t60) };
  }
  const label = $derived(
    look.slopes
      .map((each, i) => `${look.slopes.length > 1 ? (i === 0 ? 'First slope' : 'Last slope') : 'Slope'} ${seconds(each.t60_s)}`)
      .join(', '),
  );
</script>

<figure class="m-0">
  <div bind:clientWidth={wide} class="rounded-box overflow-hidden" style="background: var(--bed)">
    <svg width={wide} height={HEIGHT} class="block" role="img" aria-label="Decay curve. {label}.">
      {#each y.ticks(5) as tick (tick)}
        <line x1={LEFT} x2={wide - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--bed-line)" />
        <text x={LEFT - 8} y={y(tick) + 4} text-anchor="end" font-size="12" fill="var(--bed-text)">{String(tick).replace('-', '−')}</text>
      {/each}
      {#each x.ticks(Math.max(3, Math.round(wide / 120))) as tick (tick)}
        <text x={x(tick)} y={HEIGHT - 8} text-anchor="middle" font-size="12" fill="var(--bed-text)"
          >{tick === 0 ? '0 s' : tick.toLocaleString(LANGUAGE)}</text
        >
      {/each}
      {#if look.noise_dbfs != null}
        <line x1={LEFT} x2={wide - RIGHT} y1={y(look.noise_dbfs)} y2={y(look.noise_dbfs)} stroke="var(--bed-text)" stroke-dasharray="3 4" />
        <text x={wide - RIGHT - 4} y={y(look.noise_dbfs) + 14} text-anchor="end" font-size="12" fill="var(--bed-text)">noise</text>
      {/if}
      {#each others as other, i (other.name)}
        <path d={path(other.look)} fill="none" stroke="var(--ember-4)" stroke-width="2" stroke-dasharray={DASHES[i]} />
      {/each}
      <path d={path(look)} fill="none" stroke="var(--ember-2)" stroke-width="2.5" />
      {#each look.slopes as each, i (i)}
        {@const line = slope(each.level_dbfs, each.t60_s)}
        <line {...line} stroke="var(--chalk)" stroke-width="2" stroke-dasharray={i === 0 ? undefined : '7 5'} />
      {/each}
    </svg>
  </div>
  <figcaption class="soft mt-1 flex flex-wrap gap-x-5 text-sm">
    <span>Level over 10 ms, dBFS, from the hit on. Chalk: {within(label)}.</span>
    {#each others as other, i (other.name)}
      <span class="flex items-center gap-2"
        ><svg width="34" height="10" aria-hidden="true" style="background: var(--bed)"
          ><line x1="2" x2="32" y1="5" y2="5" stroke="var(--ember-4)" stroke-width="2" stroke-dasharray={DASHES[i]} /></svg
        >{within(other.name)} strike</span
      >
    {/each}
  </figcaption>
</figure>
