import { describe, expect, it } from 'vitest';
import { TapTempo } from './tapTempo';

describe('a tapped tempo', () => {
  it('comes from three taps on, and follows the last eight', () => {
    const taps = new TapTempo();
    expect([0, 500].map((at) => taps.tap(at))).toEqual([undefined, undefined]);
    expect(taps.tap(1000)).toBe(120);
    // Eight steady taps at 100 BPM later nothing of 120 is left.
    let now = 1000;
    let bpm: number | undefined;
    for (let tap = 0; tap < 8; tap++) bpm = taps.tap((now += 600));
    expect(bpm).toBe(100);
    expect(taps.count).toBe(8);
  });

  it('begins anew after a pause', () => {
    const taps = new TapTempo();
    [0, 500, 1000].forEach((at) => taps.tap(at));
    expect(taps.tap(4000)).toBeUndefined();
    expect(taps.count).toBe(1);
  });
});
