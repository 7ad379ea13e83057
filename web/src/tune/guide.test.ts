import { expect, it, vi } from 'vitest';
import type { GuideStep } from '../api/types';
import { guide } from './guide.svelte';
import { TapSwitch } from './switch';

const step = (lugs: number[]): GuideStep => ({ title: 'T', detail: 'D.', lugs, caution: null, seconds: 10 });

it('goes through every lug of a round, and back', () => {
  const done = vi.fn();
  guide.begin('Seating', [step([]), step([0, 2, 1]), step([])], done);
  const places: string[] = [];
  while (guide.open) {
    places.push(`${guide.at}.${guide.lug}`);
    guide.forward();
  }
  expect(places).toEqual(['0.0', '1.0', '1.1', '1.2', '2.0']);
  expect(done).toHaveBeenCalledTimes(1);
  guide.begin('Seating', [step([0, 2, 1]), step([])], done);
  for (let n = 0; n < 3; n++) guide.forward();
  guide.back();
  expect([guide.at, guide.lug]).toEqual([0, 2]);
  guide.close();
  expect(done, 'a guide that was closed was not gone through').toHaveBeenCalledTimes(1);
});

it('takes one knock for one step, and noise for none', () => {
  const knocked = vi.fn();
  const heard = new TapSwitch(knocked);
  const sound = (peak: number) => new Float32Array([0, peak, -peak]);
  for (let n = 0; n < 50; n++) heard.push(sound(0.02), n * 3);
  heard.push(sound(0.5), 200);
  heard.push(sound(0.4), 203);
  expect(knocked).toHaveBeenCalledTimes(1);
  for (let n = 0; n < 400; n++) heard.push(sound(0.02), 300 + n * 3);
  heard.push(sound(0.5), 1700);
  expect(knocked).toHaveBeenCalledTimes(2);
});
