<script lang="ts">
  import { said, within } from '../shell/figures';
  // The head from above, to scale, the player at the bottom (a kick: from the player, the floor at the bottom). What lies inside is
  // drawn broken. Where `move` is given,
  // devices can be dragged, and moved with arrow keys.
  import type { HeadSide, KeptDrum, NodalLines, PlacedDevice } from '../api/types';
  import { hasHeads, isMetal, isUpright, otherHead } from '../kit/kinds.svelte';
  import { keyTurn, path, point, polar, R } from './geometry';

  interface Props {
    drum: KeptDrum;
    devices: PlacedDevice[];
    nodal?: NodalLines | null | undefined;
    selected?: number | undefined;
    /** Begins a change, moves device by index, changes the selection. */
    grab?: ((index: number) => void) | undefined;
    move?: ((index: number, at: { radius: number; angle_deg: number }) => void) | undefined;
    nudge?: ((turnDeg: number, inwards: number) => void) | undefined;
    remove?: ((index: number) => void) | undefined;
  }
  let { drum, devices, nodal, selected, grab, move, nudge, remove }: Props = $props();

  /** Angles grow anticlockwise. */
  const TURN_DEG = 5;
  const SHIFT = 0.02;
  /** How far a cymbal's bell reaches, a part of the radius. */
  const BELL = 0.25;
  const sides = $derived(
    (['batter', 'lower'] as HeadSide[]).filter(
      (side) => side === 'batter' || devices.some((device) => device.patches.some((patch) => patch.side === side)),
    ),
  );
  // Lug 1 is the one nearest to the player, as in Tune.
  const lugs = $derived(hasHeads(drum.kind) ? Array.from({ length: drum.lugs }, (_, i) => (360 / drum.lugs) * i) : []);
  const words = $derived(
    `${isMetal(drum.kind) ? 'Cymbal' : 'Head'} from above, ${isUpright(drum.kind) ? 'the floor' : said('you')} at 6 o’clock. ${devices.map((device) => `${device.name}: ${device.place}`).join('. ')}.`,
  );
  const unique = $props.id();

  /** The device being dragged, and where it was taken hold of against its middle. */
  let held = $state<{ index: number; offX: number; offY: number }>();

  function spot(event: PointerEvent): [number, number] {
    const svg = (event.currentTarget as SVGElement).closest('svg');
    const screen = svg?.getScreenCTM();
    if (!screen) return [0, 0];
    const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(screen.inverse());
    return [x, y];
  }

  function take(event: PointerEvent, index: number) {
    if (!move) return;
    event.preventDefault();
    (event.currentTarget as SVGElement).setPointerCapture(event.pointerId);
    (event.currentTarget as SVGElement).focus();
    const outline = devices[index]?.patches[0]?.outline;
    const radius = outline && 'radius' in outline ? outline.radius : 0.85;
    const angle = outline && 'angle_deg' in outline ? outline.angle_deg : 0;
    const [x, y] = spot(event);
    const [cx, cy] = point(radius, angle);
    // Cloths and the like turn about the middle: there only the direction counts.
    const round = outline && 'radius' in outline;
    held = { index, offX: round ? cx - x : 0, offY: round ? cy - y : 0 };
    grab?.(index);
  }

  function drag(event: PointerEvent) {
    if (!held || !move) return;
    const [x, y] = spot(event);
    move(held.index, polar(x + held.offX, y + held.offY));
  }

  function pressed(event: KeyboardEvent, index: number) {
    if (!nudge) return;
    const step = { ArrowLeft: [TURN_DEG, 0], ArrowRight: [-TURN_DEG, 0], ArrowUp: [0, SHIFT], ArrowDown: [0, -SHIFT] }[event.key];
    if (step) nudge(step[0] ?? 0, step[1] ?? 0);
    else if (event.key === 'Delete' || event.key === 'Backspace') remove?.(index);
    else return;
    // These keys belong to the device while it is chosen.
    event.preventDefault();
    event.stopPropagation();
  }
</script>

{#snippet hatch(side: HeadSide)}
  <pattern id="{unique}-{side}" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
    <rect width="7" height="7" fill="var(--ember-2)" />
    <line x1="0" y1="0" x2="0" y2="7" stroke="var(--ember-4)" stroke-width="3" />
  </pattern>
{/snippet}

<div class="flex gap-2" role={move ? 'group' : 'img'} aria-label={words}>
  {#each sides as side (side)}
    <svg viewBox="-127 -127 254 280" class="min-w-0 flex-1 {move ? 'touch-none select-none' : ''}" aria-hidden={move ? undefined : 'true'}>
      {@render hatch(side)}
      <!-- What hangs over the hoop does nothing there. -->
      <clipPath id="{unique}-{side}-hoop"><circle r="112" /></clipPath>
      {#if !isMetal(drum.kind)}<circle r="108" fill="none" stroke="var(--soft)" stroke-width="5" />{/if}
      <circle r={R} fill="color-mix(in oklab, var(--color-base-content) 12%, var(--color-base-100))" stroke="var(--soft)" />
      {#if isMetal(drum.kind)}<circle r={R * BELL} fill="none" stroke="var(--soft)" /><circle r="4" fill="var(--soft)" />{/if}
      {#each lugs as angle (angle)}
        {@const [cx, cy] = point(1.15, angle)}
        <circle {cx} {cy} r="5" fill="var(--soft)" />
      {/each}
      {#if nodal && side === 'batter'}
        <g fill="none" stroke="var(--color-base-content)" stroke-width="1.2" stroke-dasharray="5 4" opacity="0.75">
          {#each nodal.circles as radius (radius)}<circle r={R * radius} />{/each}
          {#each nodal.diameters_deg as angle (angle)}
            {@const [x1, y1] = point(1, angle)}
            <line {x1} {y1} x2={-x1} y2={-y1} />
          {/each}
        </g>
      {/if}
      <path d="M-6 0H6M0 -6V6" stroke="var(--soft)" stroke-width="1.5" />
      {#each devices as device, index (index)}
        {#if device.eighths !== 0 && side === 'batter'}
          {@const turns = lugs.map((angle) => keyTurn(point(1.15, angle), device.eighths > 0)).join('')}
          {#if move}
            <g
              role="button"
              tabindex="0"
              aria-label="{device.name}, {device.amount}, {device.place}."
              aria-pressed={selected === index}
              class="cursor-pointer outline-none"
              onclick={() => grab?.(index)}
              onfocus={() => grab?.(index)}
              onkeydown={(event) => pressed(event, index)}
            >
              <path d={turns} fill="none" stroke="transparent" stroke-width="16" />
              <path
                d={turns}
                fill="none"
                stroke={selected === index ? 'var(--color-primary)' : 'var(--color-base-content)'}
                stroke-width={selected === index ? 4 : 3}
              />
            </g>
          {:else}
            <path d={turns} fill="none" stroke="var(--color-base-content)" stroke-width="3" />
          {/if}
        {/if}
        {@const patches = device.patches.filter((patch) => patch.side === side)}
        {#if patches.length > 0}
          {#if move}
            <g
              role="button"
              tabindex="0"
              aria-label="{device.name}, {device.place}. The right arrow turns it clockwise, the left one back; up and down take it in and out."
              aria-pressed={selected === index}
              class="{held?.index === index ? 'cursor-grabbing' : 'cursor-grab'} outline-none"
              onpointerdown={(event) => take(event, index)}
              onpointermove={drag}
              onpointerup={() => (held = undefined)}
              onpointercancel={() => (held = undefined)}
              onfocus={() => grab?.(index)}
              onkeydown={(event) => pressed(event, index)}
            >
              {#each patches as patch, i (i)}
                <!-- Small pads are hard to hit: a wider edge that is not seen catches the finger. -->
                <path d={path(patch.outline)} fill="transparent" stroke="transparent" stroke-width="18" />
                <path
                  d={path(patch.outline)}
                  clip-path="url(#{unique}-{side}-hoop)"
                  fill="url(#{unique}-{side})"
                  fill-rule="evenodd"
                  stroke={selected === index ? 'var(--color-primary)' : 'var(--color-base-content)'}
                  stroke-width={selected === index ? 4 : 2}
                  stroke-dasharray={device.inside ? '5 3' : undefined}
                />
              {/each}
            </g>
          {:else}
            {#each patches as patch, i (i)}
              <path
                d={path(patch.outline)}
                clip-path="url(#{unique}-{side}-hoop)"
                fill="url(#{unique}-{side})"
                fill-rule="evenodd"
                stroke="var(--color-base-content)"
                stroke-width="2"
                stroke-dasharray={device.inside ? '5 3' : undefined}
              />
            {/each}
          {/if}
        {/if}
      {/each}
      <text y="148" text-anchor="middle" font-size={move ? 14 : 24} fill="currentColor">
        {isUpright(drum.kind) ? 'floor' : said('you')}{sides.length > 1
          ? side === 'batter'
            ? ' · batter'
            : ` · ${within(otherHead(drum.kind))}`
          : ''}
      </text>
    </svg>
  {/each}
</div>
