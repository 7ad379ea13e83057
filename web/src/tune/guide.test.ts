import { expect, it, vi } from 'vitest';
import type { SeatingStep } from '../api/types';
import { guide } from './guide.svelte';
import { TapSwitch } from './switch';
import { tune } from './tune.svelte';

const step = (lugs: number[]): SeatingStep => ({ title: 'T', detail: 'D.', lugs, caution: null, seconds: 10 });

it('goes through every lug of a round, and back', () => {
  tune.seating = 'reseat';
  guide.begin([step([]), step([0, 2, 1]), step([])]);
  const places: string[] = [];
  while (tune.seating) {
    places.push(`${guide.at}.${guide.lug}`);
    guide.forward();
  }
  expect(places).toEqual(['0.0', '1.0', '1.1', '1.2', '2.0']);
  guide.back();
  expect([guide.at, guide.lug]).toEqual([1, 2]);
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
