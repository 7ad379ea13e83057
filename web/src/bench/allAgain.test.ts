import { afterEach, expect, test, vi } from 'vitest';
import { api, Refusal } from '../api/client';
import type { MeasuredAgain, TakeRow } from '../api/types';
import { AllAgain } from './allAgain.svelte';

const rows = [1, 2, 3].map((id) => ({ id }) as TakeRow);
const same = { changed: [], strikes_used_before: 5, strikes_used_after: 5 } as unknown as MeasuredAgain;
const other = { ...same, changed: [{ figure: 'body_t60_s', before: 0.5, after: 0.4 }] } as MeasuredAgain;

afterEach(() => vi.restoreAllMocks());

test('all takes are measured again, what changes is kept when asked, and one that cannot be read stops none', async () => {
  const kept: number[] = [];
  vi.spyOn(api, 'measureAgain').mockImplementation((take, keep) => {
    if (take === 2) return Promise.reject(new Refusal('Its sound is gone.', 422));
    if (keep) kept.push(take);
    return Promise.resolve(take === 3 ? other : same);
  });
  const all = new AllAgain();
  await all.measure(rows);
  expect([all.done, all.total, all.running]).toEqual([3, 3, false]);
  expect(all.changed.map(({ row }) => row.id)).toEqual([3]);
  expect(all.refused.map(({ refused }) => refused)).toEqual(['Its sound is gone.']);
  await all.keep();
  expect([kept, all.changed.length]).toEqual([[3], 0]);
});

test('it stops after the take that is being measured, and a server that is gone is no refusal', async () => {
  const all = new AllAgain();
  const asked = vi.spyOn(api, 'measureAgain').mockImplementation(() => {
    all.stop();
    return Promise.resolve(other);
  });
  await all.measure(rows);
  expect([asked.mock.calls.length, all.results.length, all.running]).toEqual([1, 1, false]);
  asked.mockRejectedValue(new Error('no answer'));
  await expect(all.measure(rows)).rejects.toThrow('no answer');
  expect(all.running).toBe(false);
});
