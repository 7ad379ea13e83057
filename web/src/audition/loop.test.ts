import { describe, expect, it } from 'vitest';
import { looped, loudest } from './loop';

const click = (...values: number[]) => Float32Array.from(values);

describe('looped', () => {
  it('puts the hit where it belongs, its lead before it', () => {
    const loop = looped([{ samples: click(0.5, 1, 0.25), hits: [{ at_s: 0.4, level_db: 0 }], lead: 0.1 }], 1, 10);
    expect([...loop]).toEqual([0, 0, 0, 0.5, 1, 0.25, 0, 0, 0, 0]);
  });

  it('lets what sounds on come in at the beginning, and a lead at the end', () => {
    const loop = looped(
      [
        { samples: click(1, 0.5, 0.25), hits: [{ at_s: 0.8, level_db: 0 }], lead: 0 },
        { samples: click(0.125, 0.5), hits: [{ at_s: 0, level_db: -20 }], lead: 0.1 },
      ],
      1,
      10,
    );
    expect(loop[0]).toBeCloseTo(0.25 + 0.05, 6);
    expect(loop[9]).toBeCloseTo(0.5 + 0.0125, 6);
    expect(loop[8]).toBe(1);
  });

  it('never has no length', () => {
    expect(looped([], 0, 48000)).toHaveLength(1);
  });
});

describe('loudest', () => {
  it('is that of all loops, whichever way it swings', () => {
    expect(loudest([click(0.2, -0.7), click(0.5)])).toBeCloseTo(0.7, 6);
    expect(loudest([])).toBe(0);
  });
});
