<script lang="ts">
  // The head from above, to scale, the player at the bottom (a kick: from the player, the floor at the bottom).
  import type { HeadSide, KeptDrum, Outline, PlacedDevice } from '../api/types';

  let { drum, devices }: { drum: KeptDrum; devices: PlacedDevice[] } = $props();

  const R = 100;
  const patches = $derived(devices.flatMap((device) => device.patches));
  const sides = $derived(
    (['batter', 'lower'] as HeadSide[]).filter((side) => side === 'batter' || patches.some((patch) => patch.side === side)),
  );
  // Lug 1 is the one nearest to the player, as in Tune.
  const lugs = $derived(Array.from({ length: drum.lugs }, (_, i) => (360 / drum.lugs) * i));
  const words = $derived(
    `Head from above, ${drum.kind === 'kick' ? 'the floor' : 'you'} at 6 o’clock. ${devices.map((device) => `${device.name}: ${device.place}`).join('. ')}.`,
  );
  const unique = $props.id();

  /** Degrees from the player's side, anticlockwise, and a radius as a fraction, as a point of the picture. */
  function point(radius: number, angleDeg: number): [number, number] {
    const angle = (angleDeg * Math.PI) / 180;
    return [R * radius * Math.sin(angle), R * radius * Math.cos(angle)];
  }

  /** An outline as an SVG path. */
  function path(outline: Outline): string {
    switch (outline.shape) {
      case 'disc': {
        const [cx, cy] = point(outline.radius, outline.angle_deg);
        return circle(cx, cy, R * outline.size);
      }
      case 'ring':
        return circle(0, 0, R * outline.outer) + circle(0, 0, R * outline.inner);
      case 'strip': {
        const { radius, angle_deg, width, length } = outline;
        const corners = [
          [radius - width / 2, -length / 2],
          [radius + width / 2, -length / 2],
          [radius + width / 2, length / 2],
          [radius - width / 2, length / 2],
        ].map(([along = 0, across = 0]) => point(Math.hypot(along, across), angle_deg + (Math.atan2(across, along) * 180) / Math.PI));
        return `M${corners.map((corner) => corner.join(' ')).join('L')}Z`;
      }
      case 'segment': {
        if (outline.depth >= 2) return circle(0, 0, R);
        const half = (Math.acos(1 - outline.depth) * 180) / Math.PI;
        const from = point(1, outline.angle_deg - half);
        const to = point(1, outline.angle_deg + half);
        return `M${from.join(' ')}A${R} ${R} 0 ${outline.depth > 1 ? 1 : 0} 0 ${to.join(' ')}Z`;
      }
    }
  }

  function circle(cx: number, cy: number, r: number): string {
    return `M${cx - r} ${cy}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`;
  }
</script>

<div class="flex gap-2" role="img" aria-label={words}>
  {#each sides as side (side)}
    <svg viewBox="-122 -122 244 {268}" class="min-w-0 flex-1" aria-hidden="true">
      <pattern id="{unique}-{side}" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="7" height="7" fill="var(--ember-2)" />
        <line x1="0" y1="0" x2="0" y2="7" stroke="var(--ember-4)" stroke-width="3" />
      </pattern>
      <circle r="108" fill="none" stroke="var(--soft)" stroke-width="5" />
      <circle r={R} fill="color-mix(in oklab, var(--color-base-content) 12%, var(--color-base-100))" stroke="var(--soft)" />
      {#each lugs as angle (angle)}
        {@const [cx, cy] = point(1.15, angle)}
        <circle {cx} {cy} r="5" fill="var(--soft)" />
      {/each}
      <path d="M-6 0H6M0 -6V6" stroke="var(--soft)" stroke-width="1.5" />
      {#each patches.filter((patch) => patch.side === side) as patch, i (i)}
        <path
          d={path(patch.outline)}
          fill="url(#{unique}-{side})"
          fill-rule="evenodd"
          stroke="var(--color-base-content)"
          stroke-width="2"
        />
      {/each}
      <text y="138" text-anchor="middle" font-size="24" fill="currentColor">
        {drum.kind === 'kick' ? 'floor' : 'you'}{sides.length > 1
          ? side === 'batter'
            ? ' · batter'
            : drum.kind === 'kick'
              ? ' · front'
              : ' · lower'
          : ''}
      </text>
    </svg>
  {/each}
</div>
