<script lang="ts">
  import { said } from '../shell/figures';
  // The hoop unrolled flat: lugs along it in order, pitch up and down, the crosswise order as a thread from lug to lug.
  import type { LugPitch } from '../api/types';
  import { centsBetween, ribbonWords, signed } from './say';

  interface Props {
    lugs: number;
    /** Crosswise. */
    order: number[];
    pitches: LugPitch[];
    /** What the lugs are held against, Hz. */
    reference: number | undefined;
    /** Whether that is a wish, not their mean. */
    wished: boolean;
    /** Pitches expected after the next turns, Hz, in hoop order. */
    expected?: (number | null)[] | undefined;
    /** The lug that is asked for. */
    lit?: number | undefined;
    height?: number;
  }
  let { lugs, order, pitches, reference, wished, expected, lit, height = 290 }: Props = $props();

  /** Lugs within this of one another are even, cents. */
  const EVEN = 8;
  let width = $state(800);
  const side = 46;
  const top = 34;
  const foot = 66;
  const known = $derived(pitches.map((pitch) => ({ ...pitch, cents: centsBetween(reference ?? pitch.hz, pitch.hz) })));
  const ahead = $derived(
    (expected ?? []).map((hz, lug) => (hz == null || reference === undefined ? undefined : { lug, cents: centsBetween(reference, hz) })),
  );
  const most = $derived(Math.max(25, ...known.map((pitch) => Math.abs(pitch.cents) + pitch.sd_cents)) * 1.12);
  const x = (lug: number) => side + ((width - side - 14) * (lug + 0.5)) / lugs;
  const y = (cents: number) => top + (height - top - foot) * (0.5 - cents / (2 * most));
  const middle = $derived((top + height - foot) / 2);
  const at = (lug: number) => known.find((pitch) => pitch.lug === lug);
  const place = (lug: number): [number, number] => [x(lug), at(lug) ? y(at(lug)?.cents ?? 0) : middle];
  const thread = $derived(order.map((lug) => place(lug).join(' ')).join('L'));
  const ribbon = $derived(
    curve(
      Array.from({ length: lugs }, (_, lug) => {
        const pitch = at(lug);
        return pitch && ([x(lug), y(pitch.cents)] as [number, number]);
      }),
    ),
  );
  const narrow = $derived(width / lugs < 64);
  const ticks = $derived([-1, 1].map((sign) => sign * (most > 200 ? 200 : most > 80 ? 50 : most > 40 ? 25 : 10)));

  /** A smooth line through points, as an SVG path; it breaks off where one is missing. */
  function curve(points: ([number, number] | undefined)[]): string {
    return points
      .map((point, i) => {
        if (!point) return '';
        const [px, py] = point;
        const last = points[i - 1];
        if (!last) return `M${px} ${py}`;
        const half = (px - last[0]) / 2;
        return `C${last[0] + half} ${last[1]} ${px - half} ${py} ${px} ${py}`;
      })
      .join('');
  }
</script>

<div bind:clientWidth={width} role="img" aria-label={ribbonWords(pitches, lugs, reference ?? 1)} style="min-height: {height}px">
  <svg viewBox="0 0 {width} {height}" {width} {height} class="block rounded-box" style="background: var(--bed)" aria-hidden="true">
    <rect
      x={side}
      y={y(EVEN / 2)}
      width={Math.max(0, width - side - 6)}
      height={y(-EVEN / 2) - y(EVEN / 2)}
      fill="var(--chalk)"
      opacity="0.14"
    />
    <line
      x1={side}
      x2={width - 6}
      y1={y(0)}
      y2={y(0)}
      stroke="var(--chalk)"
      stroke-width="1.5"
      stroke-dasharray={wished ? undefined : '2 5'}
    />
    <text x="6" y={y(0) + 5} font-size="15" fill="var(--chalk)">{wished ? said('wish') : said('mean')}</text>
    {#each ticks as tick (tick)}
      <line x1={side} x2={width - 6} y1={y(tick)} y2={y(tick)} stroke="var(--bed-line)" />
      <text x="6" y={y(tick) + 5} font-size="15" fill="var(--bed-text)">{signed(tick)}</text>
    {/each}
    <path d="M{thread}" fill="none" stroke="var(--bed-text)" stroke-width="1.5" stroke-dasharray="2 5" />
    {#if known.length > 1}
      <path d={ribbon} fill="none" stroke="var(--ember-5)" stroke-width="15" stroke-linecap="round" />
      <path d={ribbon} fill="none" stroke="var(--ember-3)" stroke-width="7" stroke-linecap="round" />
    {/if}
    {#each Array.from({ length: lugs }, (_, lug) => lug) as lug (lug)}
      {@const pitch = at(lug)}
      {@const [px, py] = place(lug)}
      <line x1={px} x2={px} y1={height - 38} y2={height - 30} stroke="var(--bed-text)" stroke-width="2" />
      <text
        x={px}
        y={height - 10}
        text-anchor="middle"
        font-size="19"
        font-weight={lug === 0 || lug === lit ? 700 : 400}
        fill={lug === lit ? 'var(--ember-1)' : 'var(--chalk)'}>{lug + 1}{lug === 0 && !narrow && lugs > 1 ? ` ${said('first')}` : ''}</text
      >
      {#if ahead[lug]}
        {@const beside = px + Math.min(26, (width - side) / lugs / 2.4)}
        <line x1={px} y1={py} x2={beside} y2={y(ahead[lug].cents)} stroke="var(--chalk)" stroke-width="2" />
        <circle cx={beside} cy={y(ahead[lug].cents)} r="7" fill="var(--bed)" stroke="var(--chalk)" stroke-width="2.5" />
      {/if}
      {#if pitch}
        <line
          x1={px}
          x2={px}
          y1={y(pitch.cents - pitch.sd_cents)}
          y2={y(pitch.cents + pitch.sd_cents)}
          stroke="var(--ember-0)"
          stroke-width="3"
        />
        <circle cx={px} cy={py} r="9" fill="var(--ember-1)" />
        {@const rises = (ahead[lug]?.cents ?? -most) > pitch.cents}
        {@const above = !rises && py > top + 26}
        <text x={px} y={above ? py - 17 : py + 30} text-anchor="middle" font-size={narrow ? 15 : 19} font-weight="650" fill="var(--ember-0)"
          >{signed(pitch.cents)}</text
        >
      {:else}
        <circle cx={px} cy={py} r="8" fill="var(--bed)" stroke="var(--bed-text)" stroke-dasharray="3 3" />
      {/if}
      {#if lug === lit}
        <circle cx={px} cy={py} r="16" fill="none" stroke="var(--ember-1)" stroke-width="3" />
      {/if}
    {/each}
  </svg>
</div>
