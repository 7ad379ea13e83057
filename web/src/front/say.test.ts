import { expect, test } from 'vitest';
import type { FrontPage, FrontWay } from '../api/types';
import { beatWords, bodyWords, changed, frontCode, holeQuery, openingWords, pitch, placedCode, reboundWords, signed } from './say';
import { angleOf, hour } from '../kit/holes';

test('fronts are told from one another', () => {
  expect(frontCode({ state: 'off' })).toBe('off');
  const ports = [
    { diameter_in: 5, radius: 0.6, angle_deg: 60 },
    { diameter_in: 2.5, radius: 0.5, angle_deg: 300 },
  ];
  expect(frontCode({ state: 'ported', ports })).toBe('ports:5@0.6000@60.00:2.5@0.5000@300.00');
});

test('angles from the floor become hours', () => {
  const at = (angle_deg: number) => hour({ diameter_in: 5, radius: 0.6, angle_deg });
  for (let clock = 1; clock <= 12; clock++) expect(at(angleOf(clock))).toBe(clock);
  expect([0, 60, 90, 180, 270, 300, 359].map(at)).toEqual([6, 4, 3, 12, 9, 8, 6]);
});

test('what was learned is said with its doubt, and what was not is said to be a guess', () => {
  const page = { tests: 2, opening: 1.2, opening_low: 0.9, opening_high: 1.6 } as FrontPage;
  expect(openingWords(page)).toBe('2 trials on this kit: openings take 1.20 times what is usual (0.90 to 1.60).');
  expect(openingWords({ ...page, tests: 0 })).toContain('from experience');
});

test('signs and figures', () => {
  expect([signed(1.24), signed(-3), signed(0.01)]).toEqual(['+1.2', '−3.0', '0.0']);
  expect(holeQuery({ diameter_in: 4, radius: 0.61234, angle_deg: 60 }, 15, 0)).toEqual({
    diameter_in: 4,
    radius: 0.6123,
    angle_deg: 60,
    ring_mm: 15,
    logo_mm: 0,
  });
});

test('lengths in beats', () => {
  expect(beatWords(0.86, 96)).toBe('The body is heard for 0.9 beats at 96 bpm.');
  expect(beatWords(null, 96)).toContain('not known');
});

test('things laid in are told from one another', () => {
  expect(placedCode({ device: 'pillow', amount: 1, radius: 0.85, angle_deg: 0 })).toBe('pillow:1:0.8500:0.00');
});

test('levels and pitches are said with their bounds, where there are any', () => {
  expect(changed({ db: -1.94, low: -4.58, high: 0.6 })).toBe('−1.9 dB (−4.6 to +0.6)');
  expect(changed({ db: 0, low: 0, high: 0 })).toBe('0.0 dB');
  const expected = { profile: { body_hz: 66.2 } } as FrontWay['expected'];
  expect(pitch({ expected, body_hz: { low: 64.9, high: 67.4 } })).toBe('66 Hz (65 to 67)');
  expect(pitch({ expected, body_hz: null })).toBe('66 Hz');
});

test('what a beater does that is left in the head', () => {
  const again = [{ at_s: 0.0594, level_db: -3.6 }];
  const range = { low: 0.0404, high: 0.091 };
  expect(reboundWords({ again: [], fewest: 0, most: 0 })).toContain('one clean hit');
  expect(reboundWords({ again, fewest: 1, most: 2, second_s: range })).toBe(
    'a beater left in the head strikes again after 40 to 91 ms, whatever the foot; under a usual foot after 59 ms, about 4 dB softer',
  );
  expect(reboundWords({ again: [{ at_s: 0.05, level_db: -1 }], fewest: 1, most: 1, second_s: range })).toContain('nearly as hard');
  expect(reboundWords({ again: [], fewest: 0, most: 1, second_s: { low: 0.048, high: 0.048 } })).toBe(
    "a beater left in the head stays there under a usual foot: one clean hit; a lighter foot's may strike again after 48 ms",
  );
  expect(reboundWords({ again, fewest: 0, most: 2, second_s: range })).toBe(
    'a beater left in the head strikes again: under a usual foot after 59 ms, about 4 dB softer; a firmer foot may keep it there',
  );
});

test('a thump has a length and no pitch', () => {
  const way = {
    expected: { profile: { body_t60_s: 0.15, body_hz: 39 }, body_t60_s: { low: 0.05, high: 0.45 } },
    body_hz: { low: 36, high: 44 },
    thump: true,
  } as FrontWay;
  expect(bodyWords(way)).toBe('A thump of 0.15 s (50 ms to 0.45 s), no tone');
  expect(bodyWords({ ...way, thump: false })).toBe('Body 0.15 s (50 ms to 0.45 s) at 39 Hz (36 to 44)');
});
