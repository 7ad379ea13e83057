import { describe, expect, it } from 'vitest';
import { Gaps } from './gaps';

const RATE = 48_000;
const PIECE = 1024;
const PIECE_MS = (1000 * PIECE) / RATE;

/** Feeds pieces that arrive `late(n)` ms after they should; returns what was counted as lost, piece by piece. */
function run(count: number, late: (n: number) => number): number[] {
  const gaps = new Gaps(RATE);
  return Array.from({ length: count }, (_, n) => gaps.arrived(PIECE, 1e6 + (n + 1) * PIECE_MS + late(n)));
}

const total = (lost: number[]) => lost.reduce((a, b) => a + b, 0);

describe('gaps', () => {
  it('are none in sound that comes in time, nor in single late pieces', () => {
    expect(total(run(500, () => 0))).toBe(0);
    expect(total(run(500, (n) => (n % 20 === 0 ? 200 : 5 * Math.sin(n))))).toBe(0);
  });

  it('are none when two clocks drift apart by 100 parts in a million', () => {
    expect(total(run(20_000, (n) => n * PIECE_MS * 1e-4))).toBe(0);
  });

  it('are found once, with their length, when sound stays behind', () => {
    const lost = run(400, (n) => (n < 200 ? 0 : 60));
    expect(lost.filter((each) => each > 0)).toHaveLength(1);
    // 60 ms at 48 kHz, to within 3 ms.
    expect(Math.abs(total(lost) - 2880)).toBeLessThan(144);
  });

  it('are found again when more is lost later', () => {
    const lost = run(600, (n) => (n < 200 ? 0 : n < 400 ? 50 : 100));
    expect(lost.filter((each) => each > 0)).toHaveLength(2);
  });
});
