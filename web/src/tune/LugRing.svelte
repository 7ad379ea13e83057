<script lang="ts">
  import { said } from '../shell/figures';
  // The drum from above, the player at the bottom: lugs numbered clockwise from the one nearest to the player.
  interface Props {
    lugs: number;
    /** The lug to go to. */
    lit?: number | undefined;
    /** Lugs already gone through. */
    done?: number[];
    /** Where to go to after it. */
    then?: number | undefined;
    floor?: boolean;
  }
  let { lugs, lit, done = [], then, floor = false }: Props = $props();

  const R = 100;
  /** Clockwise from the player, seen from above. */
  function point(lug: number, radius: number): [number, number] {
    const angle = (2 * Math.PI * lug) / lugs;
    return [-radius * Math.sin(angle), radius * Math.cos(angle)];
  }
  const words = $derived(
    `Drum from above, lug 1 nearest to ${floor ? 'the floor' : said('you')}, numbers clockwise.${lit === undefined ? '' : ` Lug ${lit + 1} is lit.`}`,
  );
</script>

<svg viewBox="-152 -148 304 322" class="size-full" role="img" aria-label={words}>
  <circle r="116" fill="none" stroke="var(--bed-text)" stroke-width="7" opacity="0.6" />
  <circle r={R} fill="var(--bed)" stroke="var(--bed-text)" />
  {#if lit !== undefined && then !== undefined}
    {@const from = point(lit, 92)}
    {@const to = point(then, 92)}
    <path d="M{from.join(' ')}L{to.join(' ')}" stroke="var(--bed-text)" stroke-width="2" stroke-dasharray="3 7" />
  {/if}
  {#if lit !== undefined}
    {@const [x, y] = point(lit, 80)}
    <circle cx={x} cy={y} r="13" fill="var(--ember-2)" />
    <circle cx={x} cy={y} r="20" fill="none" stroke="var(--ember-2)" stroke-width="2.5" />
  {/if}
  {#each Array.from({ length: lugs }, (_, lug) => lug) as lug (lug)}
    {@const [x, y] = point(lug, 124)}
    <circle
      cx={x}
      cy={y}
      r="19"
      fill={lug === lit ? 'var(--ember-1)' : done.includes(lug) ? 'var(--ember-5)' : 'var(--bed)'}
      stroke={lug === 0 ? 'var(--chalk)' : 'var(--bed-text)'}
      stroke-width={lug === 0 ? 4 : 1.5}
    />
    <text {x} y={y + 7} text-anchor="middle" font-size="20" font-weight="700" fill={lug === lit ? '#1d0f05' : 'var(--chalk)'}
      >{lug + 1}</text
    >
  {/each}
  <text y="168" text-anchor="middle" font-size="20" fill="var(--bed-text)">{floor ? 'floor' : said('you')}</text>
</svg>
