import { afterEach, expect, it, vi } from 'vitest';
import { api } from '../api/client';
import type { StrikeLook, StrikeView, TakeView } from '../api/types';
import { looking, middles } from './look.svelte';

afterEach(() => vi.restoreAllMocks());

const strike = (id: number, dynamic: StrikeView['dynamic'], peak_dbfs: number, more: Partial<StrikeView> = {}) =>
  ({ id, dynamic, peak_dbfs, advice: [], dropped: false, ...more }) as unknown as StrikeView;

const STRIKES = [
  strike(1, 'hard', -9),
  strike(2, 'soft', -30),
  strike(3, 'soft', -26),
  strike(4, 'soft', -34),
  strike(5, 'medium', -18, { advice: ['Two hits at once.'] }),
  strike(6, 'hard', -6, { dropped: true }),
];

it('holds a strike against the middle one of each dynamic, soft to hard, usable ones only', () => {
  expect(middles(STRIKES).map(({ id }) => id)).toEqual([2, 1]);
  expect(middles(STRIKES.map((each) => ({ ...each, dynamic: null })))).toEqual([]);
});

it('looks at one strike with the others behind it, and forgets answers that come too late', async () => {
  const answers: ((look: StrikeLook) => void)[] = [];
  const asked: number[] = [];
  vi.spyOn(api, 'look').mockImplementation((id) => {
    asked.push(id);
    return new Promise((resolve) => answers.push(resolve));
  });
  const look = (sentence: string) => ({ sentences: [sentence] }) as unknown as StrikeLook;
  const opening = looking.open({ id: 9, strikes: STRIKES } as unknown as TakeView, 0);
  expect(asked).toEqual([1, 2]);
  const going = looking.go(1);
  expect(asked).toEqual([1, 2, 2, 1]);
  answers[2]?.(look('the second'));
  answers[3]?.(look('behind'));
  await going;
  answers[0]?.(look('the first'));
  answers[1]?.(look('too late'));
  await opening;
  expect([looking.at, looking.look?.sentences, looking.others.map(({ name }) => name)]).toEqual([1, ['the second'], ['Hard']]);
  await looking.go(99);
  expect(looking.at, 'there is no such strike').toBe(1);
});
