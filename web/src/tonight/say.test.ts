import { describe, expect, it } from 'vitest';
import type { Evening, EveningPlan } from '../api/types';
import { gap, instead, outcome, second } from './say';

const plan = (change: object) => ({ fitting: 3, cells: 4, changes: 0, change_s: 0, late: 0, proved: true, ...change }) as EveningPlan;

describe('the evening in words', () => {
  it('says times between songs as they are spoken', () => {
    expect([gap(8), gap(89.6), gap(90), gap(900), gap(925)]).toEqual(['8 s', '90 s', '1:30 min', '15 min', '15:25 min']);
  });

  it('names what was on a drum before, and what only moved', () => {
    expect(instead('open', 'tape')).toBe('');
    expect(instead('2 gel pads', 'tape')).toBe('instead of 2 gel pads');
    expect(instead('2 gel pads', '2 gel pads')).toBe('in other places');
  });

  it('sums a plan up', () => {
    expect(outcome(plan({}))).toBe('3 of 4 fit; no changes');
    expect(outcome(plan({ changes: 1, change_s: 20, late: 2 }))).toBe('3 of 4 fit; 1 change, 20 s in all, 2 gaps too short');
  });

  it('says whether anything better is in reach and which other way is as good, and keeps silent of what helps nobody', () => {
    const song = (title: string) => ({ song: { title } });
    const evening = {
      songs: [song('A'), song('B')],
      drums: [{ name: 'Kick', setups: [{ words: 'open' }, { words: 'tape' }] }],
    } as unknown as Evening;
    const differs = [{ song: 1, drum: 0, setup: 1 }];
    expect(second(evening, plan({ second_best: { more: 0.6, differs } }))).toBe(
      'Nothing better is in reach. Hardly worse would be tape on the Kick in “B”.',
    );
    expect(second(evening, plan({ second_best: { more: 3, differs } }))).toBe('Nothing better is in reach.');
    expect(second(evening, plan({ second_best: { more: 0, differs: [{ song: 0, drum: 0, setup: 0 }, ...differs] } }))).toContain(
      'As good would be open on the Kick all evening.',
    );
    expect(second(evening, plan({ proved: false, at_most_better: 2 }))).toBe('');
  });
});
