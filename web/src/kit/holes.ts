// Where holes lie, as it is said: by the clock, seen from outside.
import type { Port } from '../api/types';

/** Where a hole is on a clock face, seen from outside. */
export function hour(port: Port): number {
  const hour = Math.round((((180 - port.angle_deg) / 30) % 12) + 12) % 12;
  return hour === 0 ? 12 : hour;
}

/** The angle of a place by the clock, degrees from the floor. */
export const angleOf = (hour: number) => (((180 - 30 * hour) % 360) + 360) % 360;
