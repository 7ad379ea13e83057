<script lang="ts">
  // Level over time and frequency: what glows to the right lasts.
  import { scaleLog } from 'd3-scale';
  import type { Waterfall } from '../api/types';
  import { hertz, seconds, fixed } from '../shell/figures';

  let { waterfall }: { waterfall: Waterfall } = $props();

  const HEIGHT = 300;
  const LEFT = 54;
  const BOTTOM = 26;
  const TICKS = [50, 100, 200, 400, 800, 1600, 3200];
  /** How long a band lasts is judged here: deeper down noise would be taken for it, dB. */
  const GONE = -40;

  let wide = $state(640);
  let canvas = $state<HTMLCanvasElement>();
  const low = $derived(waterfall.hz[0] ?? 40);
  const high = $derived(waterfall.hz.at(-1) ?? 4000);
  const y = $derived(
    scaleLog()
      .domain([low, high])
      .range([HEIGHT - BOTTOM, 4]),
  );
  const length = $derived(waterfall.level_db.length * waterfall.step_s);
  const inner = $derived(Math.max(wide - LEFT - 8, 60));
  const ticks = $derived(Array.from({ length: 5 }, (_, i) => (i * length) / 4));

  /** The band that is heard longest, for those who do not see the picture. */
  const longest = $derived.by(() => {
    const rows = waterfall.level_db;
    const lasts = waterfall.hz.map((_, band) => rows.findLastIndex((row) => (row[band] ?? -99) > GONE));
    const most = Math.max(...lasts);
    // Several neighbours last as long: the loudest of them is meant.
    const last = rows[Math.max(most, 0)] ?? [];
    const band = last.indexOf(Math.max(...last));
    return { hz: waterfall.hz[band] ?? 0, s: (most + 1) * waterfall.step_s };
  });

  $effect(() => {
    const context = canvas?.getContext('2d');
    if (!canvas || !context) return;
    const style = getComputedStyle(document.documentElement);
    const ramp = [0, 1, 2, 3, 4, 5, 6].map((step) => style.getPropertyValue(`--ember-${step}`));
    const rows = waterfall.level_db;
    canvas.width = rows.length;
    canvas.height = waterfall.hz.length;
    rows.forEach((row, time) => {
      row.forEach((level, band) => {
        // Ten decibels a step of the ramp; past its end it is dark.
        const step = Math.floor(-level / 10);
        context.fillStyle = ramp[step] ?? style.getPropertyValue('--bed');
        context.fillRect(time, waterfall.hz.length - 1 - band, 1, 1);
      });
    });
  });
</script>

<figure class="m-0">
  <div bind:clientWidth={wide} class="rounded-box relative overflow-hidden" style="background: var(--bed); height: {HEIGHT}px">
    <div
      role="img"
      aria-label="Waterfall: {hertz(longest.hz)} is heard longest, {seconds(longest.s)} until it is 40 dB down."
      class="absolute"
      style="left: {LEFT}px; top: 4px; width: {inner}px; height: {HEIGHT - BOTTOM - 4}px"
    >
      <canvas bind:this={canvas} class="h-full w-full"></canvas>
    </div>
    <svg width={wide} height={HEIGHT} class="absolute inset-0" aria-hidden="true">
      {#each TICKS.filter((hz) => hz > low && hz < high) as hz (hz)}
        <text x={LEFT - 8} y={y(hz) + 4} text-anchor="end" font-size="12" fill="var(--bed-text)">{hz} Hz</text>
      {/each}
      {#each ticks as tick, i (i)}
        <text
          x={LEFT + (inner * tick) / length}
          y={HEIGHT - 8}
          text-anchor={i === 0 ? 'start' : i === 4 ? 'end' : 'middle'}
          font-size="12"
          fill="var(--bed-text)">{i === 0 ? '0 s' : fixed(tick, 2)}</text
        >
      {/each}
    </svg>
  </div>
  <figcaption class="soft mt-1 flex flex-wrap items-center gap-x-3 text-sm">
    <span>What glows far to the right lasts: {hertz(longest.hz)} longest.</span>
    <span class="flex items-center gap-1"
      >0 dB
      {#each [0, 1, 2, 3, 4, 5, 6] as step (step)}<span class="inline-block h-3 w-4" style="background: var(--ember-{step})"></span>{/each}
      −70 dB</span
    >
  </figcaption>
</figure>
