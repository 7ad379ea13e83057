import { expect, it } from 'vitest';
import { noteHz } from './notes';

it('reads notes and pitches', () => {
  expect(noteHz('A4')).toBeCloseTo(440);
  expect(noteHz('Bb2')).toBeCloseTo(116.541, 2);
  expect(noteHz(' f#3 ')).toBeCloseTo(184.997, 2);
  expect(noteHz('182,5')).toBeCloseTo(182.5);
  expect(noteHz('210 Hz')).toBe(210);
});

it('takes nothing else', () => {
  for (const wrong of ['', 'H2', 'A', '4A', 'low', '-3']) expect(noteHz(wrong)).toBeUndefined();
});
