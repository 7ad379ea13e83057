// The head from above as a picture: radius 100, the player at the bottom, degrees from there, anticlockwise.
import type { Outline, PlacedDevice, Placement } from '../api/types';

export const R = 100;

/** A radius as a fraction of the head's and degrees, as a point of the picture. */
export function point(radius: number, angleDeg: number): [number, number] {
  const angle = (angleDeg * Math.PI) / 180;
  return [R * radius * Math.sin(angle), R * radius * Math.cos(angle)];
}

/** The other way round. */
export function polar(x: number, y: number): { radius: number; angle_deg: number } {
  return { radius: Math.hypot(x, y) / R, angle_deg: ((Math.atan2(x, y) * 180) / Math.PI + 360) % 360 };
}

function circle(cx: number, cy: number, r: number): string {
  return `M${cx - r} ${cy}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`;
}

/** An outline as an SVG path. */
export function path(outline: Outline): string {
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
    case 'arc': {
      const { inner, outer, angle_deg, span_deg } = outline;
      const [from, to] = [angle_deg - span_deg / 2, angle_deg + span_deg / 2];
      const large = span_deg > 180 ? 1 : 0;
      // Angles grow anticlockwise, which on a screen with y downwards is the sweep flag 0.
      return `M${point(outer, from).join(' ')}A${R * outer} ${R * outer} 0 ${large} 0 ${point(outer, to).join(' ')}L${point(inner, to).join(' ')}A${R * inner} ${R * inner} 0 ${large} 1 ${point(inner, from).join(' ')}Z`;
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

/** A key turning the rod at a point: an open circle with its head where it is turned to. Tighter is clockwise. */
export function keyTurn([cx, cy]: [number, number], tighter: boolean): string {
  const [r, side] = [9, tighter ? 1 : -1];
  const [x, y] = [cx + side * r, cy];
  const head = `M${x - 4} ${y - 4}L${x} ${y}L${x + 4} ${y - 4}`;
  return `M${cx - side * 3} ${cy + 8.5}A${r} ${r} 0 1 ${tighter ? 1 : 0} ${x} ${y}${head}`;
}

/** A device as it lies at `placement`, before the server has said what becomes of it. */
export function shifted(device: PlacedDevice, placement: Placement): PlacedDevice {
  const patches = device.patches.map((patch) => {
    const outline = { ...patch.outline };
    if (device.has_angle && 'angle_deg' in outline) outline.angle_deg = placement.angle_deg;
    if (device.has_radius && 'radius' in outline) outline.radius = placement.radius;
    return { ...patch, outline };
  });
  return { ...device, patches };
}

/** What reaches further than this from its middle hangs over the hoop as it likes. */
const LARGE = 0.35;

/** Where a device may be taken to: no further out than its own edge allows. */
export function within(device: PlacedDevice, at: { radius: number; angle_deg: number }): { radius: number; angle_deg: number } {
  const outline = device.patches[0]?.outline;
  const reach = outline?.shape === 'disc' ? outline.size : outline?.shape === 'strip' ? Math.hypot(outline.width, outline.length) / 2 : 0;
  return { radius: Math.max(0, Math.min(reach > LARGE ? 0.95 : 1 - reach, at.radius)), angle_deg: at.angle_deg };
}
