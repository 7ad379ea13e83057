import { describe, expect, it } from 'vitest';
import type { AudibleLength, Bench, Partial, PlanView, TakeView } from '../api/types';
import { families, loudest, rows } from './trails';

const partial = (hz: number, t60: number | null, level = 0, sd: number | null = 0.01): Partial => ({
  hz,
  t60_s: t60,
  t60_sd_s: sd,
  level_db: level,
  tone: null,
});

/** Where the band covers all that is 30 dB below the strike. */
const audible = ({ t60_s, t60_sd_s, level_db }: Partial): AudibleLength | null => {
  const heard = (t60: number) => (Math.max(0, level_db + 30) / 60) * t60;
  if (t60_s == null) return null;
  const range = t60_sd_s == null ? null : { low: heard(t60_s - t60_sd_s), high: heard(t60_s + t60_sd_s) };
  return { length_s: heard(t60_s), range };
};

const take = (partials: Partial[], body: number, ring: number | null) =>
  ({
    partials,
    families: [] as TakeView['families'],
    motions: partials.map(() => ''),
    audible: partials.map(audible),
    summary: { profile: { body_hz: body, ring_hz: ring } },
  }) as unknown as TakeView;

const bench = (change: object): Bench =>
  ({
    wanted: { ring_length_most_s: 0.3, body_length_least_s: 0.1, body_length_most_s: 0.4 },
    ...change,
  }) as unknown as Bench;

const plan = (partials: Partial[], change: object = {}) =>
  ({
    expected: { partials, profile: { ring_hz: partials[1]?.hz }, ...change },
    audible: partials.map(audible),
  }) as unknown as PlanView;

describe('rows', () => {
  it('name body and ring, and leave out what is never heard or has no decay time', () => {
    const open = take([partial(100, 0.8), partial(160, 1.2, -6), partial(200, null), partial(300, 1, -35)], 100, 160);
    const found = rows(bench({ open }), undefined);
    expect(found.map((row) => [row.hz, row.part])).toEqual([
      [100, 'body'],
      [160, 'ring'],
    ]);
  });

  it('lay expected and found under the open partial, although mass has lowered them', () => {
    const open = take([partial(100, 0.8), partial(160, 1.2)], 100, 160);
    const found = take([partial(98, 0.5), partial(150, 0.4)], 98, 150);
    const treatment = { plan: plan([partial(97, 0.45, 0, null), partial(149, 0.3, 0, null)]) };
    const [body, ring] = rows(bench({ open, found, treatment }), undefined);
    expect(body?.trails.map((trail) => [trail.layer, trail.t60])).toEqual([
      ['open', 0.8],
      ['expected', 0.45],
      ['found', 0.5],
    ]);
    expect(ring?.trails.map((trail) => trail.t60)).toEqual([1.2, 0.3, 0.4]);
  });

  it('use each counterpart once, the nearest first', () => {
    const open = take([partial(200, 0.8), partial(208, 1.2)], 200, null);
    const [lower, upper] = rows(bench({ open }), plan([partial(207, 0.5, 0, null)]));
    expect(lower?.trails).toHaveLength(1);
    expect(upper?.trails.map((trail) => trail.layer)).toEqual(['open', 'expected']);
  });

  it('show how long each tone is heard, and the doubt where there is one', () => {
    const open = take([partial(100, 0.8), partial(160, 1.2)], 100, 160);
    const [body, ring] = rows(bench({ open }), plan([partial(100, 0.4, 0, 0.1), partial(160, 0.6, 0, null)]));
    const [measured, expected] = body?.trails ?? [];
    expect([measured?.heard, expected?.heard]).toEqual([0.4, 0.2]);
    expect(expected?.doubt?.low).toBeCloseTo(0.15);
    expect(ring?.trails[1]?.doubt).toBeUndefined();
  });

  it('show what is on the drum, not the plan that happens to be chosen', () => {
    const open = take([partial(100, 0.8)], 100, null);
    const treatment = { plan: plan([partial(100, 0.3)]) };
    const [body] = rows(bench({ open, treatment }), plan([partial(100, 0.7)]));
    expect(body?.trails.map((trail) => trail.t60)).toEqual([0.8, 0.3]);
  });

  it('are none before anything was heard', () => {
    expect(rows(bench({}), undefined)).toEqual([]);
  });
});

describe('families', () => {
  it('are told with their beat where both members are shown', () => {
    const open = { ...take([partial(100, 0.8), partial(196, 1), partial(200.5, 1), partial(260, 1)], 100, 196) };
    open.families = [{ low_hz: 196, high_hz: 200.5 }];
    const all = rows(bench({ open }), undefined);
    expect(families(all)).toEqual([{ at: 1, beatHz: 4.5 }]);
    expect(families(all.filter((row) => row.hz !== 200.5)), 'one alone is no family').toEqual([]);
  });
});

describe('loudest', () => {
  it('keeps body and ring and those heard longest, still low to high', () => {
    const open = take([partial(100, 0.2), partial(160, 0.3), partial(250, 2), partial(300, 0.5), partial(400, 1.5)], 100, 160);
    const few = loudest(rows(bench({ open }), undefined), 4);
    expect(few.map((row) => row.hz)).toEqual([100, 160, 250, 400]);
  });
});
