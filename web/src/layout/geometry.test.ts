import { describe, expect, it } from 'vitest';
import type { PlacedDevice } from '../api/types';
import { keyTurn, point, polar, shifted, within } from './geometry';

const pad: PlacedDevice = {
  name: 'gel pad',
  amount: 'one',
  place: '',
  patches: [{ side: 'batter', contact: 1, outline: { shape: 'disc', radius: 0.5, angle_deg: 10, size: 0.1 } }],
  eighths: 0,
  has_angle: true,
  has_radius: true,
  inside: false,
  other_head_too: true,
  tolls: [],
  cost: '',
  steps: [],
  steps_off: [],
};

describe('the head from above', () => {
  it('has the player at the bottom and three o’clock at 90 degrees', () => {
    expect(point(1, 0)).toEqual([0, 100]);
    expect(point(0.5, 90)[0]).toBeCloseTo(50, 9);
  });

  it('finds places back from points', () => {
    for (const [radius, angle] of [
      [0.3, 0],
      [0.85, 135],
      [1, 359],
    ] as const) {
      const [x, y] = point(radius, angle);
      const back = polar(x, y);
      expect(back.radius).toBeCloseTo(radius, 9);
      expect(back.angle_deg).toBeCloseTo(angle, 9);
    }
  });

  it('moves a device along, but a ring stays where it is', () => {
    const to = { device: 'gel_pad', amount: 0, radius: 0.8, angle_deg: 200 } as const;
    expect(shifted(pad, to).patches[0]?.outline).toMatchObject({ radius: 0.8, angle_deg: 200 });
    const ring: PlacedDevice = {
      ...pad,
      has_angle: false,
      has_radius: false,
      patches: [{ side: 'batter', contact: 1, outline: { shape: 'ring', inner: 0.8, outer: 0.98 } }],
    };
    expect(shifted(ring, to).patches).toEqual(ring.patches);
  });

  it('turns a key clockwise to tighten, and the other way to let down', () => {
    expect(keyTurn([0, 0], true)).toMatch(/A9 9 0 1 1 9 0M/);
    expect(keyTurn([0, 0], false)).toMatch(/A9 9 0 1 0 -9 0M/);
  });

  it('keeps a device on the head', () => {
    expect(within(pad, { radius: 1.4, angle_deg: 20 }).radius).toBeCloseTo(0.9, 9);
    expect(within(pad, { radius: 0.4, angle_deg: 20 })).toEqual({ radius: 0.4, angle_deg: 20 });
    const patches = [
      { side: 'batter', contact: 1, outline: { shape: 'strip', radius: 0.8, angle_deg: 0, length: 1.3, width: 1.3 } },
    ] as const;
    const cloth = { ...pad, patches: [...patches] };
    expect(within(cloth, { radius: 0.7, angle_deg: 20 }).radius).toBe(0.7);
  });
});
