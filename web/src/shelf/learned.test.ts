import { describe, expect, it } from 'vitest';
import type { DeviceStrength } from '../api/types';
import { afterWords, exponentWords, headsWords, madeWords, massWords, nameOf, scoreWords, strengthWords, timeWords } from './learned';

const pad: DeviceStrength = {
  device: 'gel_pad',
  times: 1.4,
  low: 1.1,
  high: 1.8,
  mass_times: 1.2,
  mass_low: 1,
  mass_high: 1.5,
  exponent: 0.25,
  exponent_low: 0.1,
  exponent_high: 0.4,
  tests: 3,
  on_heads: [],
};

describe('what was learned', () => {
  it('says how strong a device is, with bounds and tests', () => {
    expect(strengthWords(pad)).toBe('1.40 times as strong as usual (1.10 to 1.80), from 3 tests.');
    expect(strengthWords({ ...pad, times: 1.02, tests: 1 })).toBe('As strong as usual (1.10 to 1.80), from 1 test.');
    expect(strengthWords({ ...pad, tests: 0 })).toMatch(/not tested/i);
  });

  it('says of a turn of every rod how far an eighth goes', () => {
    const turn: DeviceStrength = { ...pad, device: 'rods_turned', eighth: { cents: 34.2, low: 30.4, high: 38.1 } };
    expect(strengthWords(turn)).toBe('An eighth of a turn moves a head by about 34 cents (30 to 38), from 3 tests.');
    expect(strengthWords({ ...turn, tests: 0 })).toMatch(/not tested/i);
  });

  it('says what it is on each family of heads on which it was tested', () => {
    const on_heads = [
      { family: 'single_ply' as const, times: 1.52, low: 1.2, high: 1.9, tests: 2 },
      { family: 'double_ply' as const, times: 0.9, low: 0.7, high: 1.15, tests: 1 },
    ];
    expect(headsWords({ ...pad, on_heads })).toBe(
      'On heads of one ply 1.52 times (1.20 to 1.90), from 2 tests; on heads of two plies 0.90 times (0.70 to 1.15), from 1 test.',
    );
    expect(headsWords(pad)).toBe('');
  });

  it('says how heavy it is only where tests have told', () => {
    expect(massWords(pad)).toBe('Its mass on the head: 1.20 times the usual (1.00 to 1.50).');
    expect(massWords({ ...pad, mass_low: 0.7, mass_high: 2 })).toBe('');
    expect(massWords({ ...pad, tests: 0 })).toBe('');
  });

  it('says how it grows with pitch only where tests have told', () => {
    expect(exponentWords(pad)).toBe('An octave up it holds 1.19 times as strongly (1.07 to 1.32).');
    expect(exponentWords({ ...pad, exponent_low: 0, exponent_high: 0.5 })).toBe('');
    expect(exponentWords({ ...pad, tests: 0 })).toBe('');
  });

  it('keeps the score, and says nothing without tests', () => {
    expect(scoreWords({ times: 0, within: 0, within_four_in_five: 0, usual_error: null, learned_error: null })).toEqual([]);
    const words = scoreWords({ times: 8, within: 7, within_four_in_five: 6, usual_error: 0.18, learned_error: 0.09 });
    expect(words[0]).toContain('7 of 8');
    expect(words[1]).toContain('6 of them');
    expect(words[2]).toMatch(/9 %.*18 %/);
  });

  it('names and measures things of one’s own', () => {
    const made = { name: 'bandana', length_m: 0.3, width_m: 0.255, mass_kg: 0.0141 };
    expect(nameOf({ name: 'thing of your own', made })).toBe('bandana');
    expect(nameOf({ name: 'gel pad', made: null })).toBe('gel pad');
    expect(madeWords(made)).toBe('30 × 25.5 cm, 14.1 g');
  });

  it('says what one test made of it', () => {
    expect(afterWords(pad)).toBe('Then taken as 1.40 times the usual (1.10 to 1.80).');
    expect(afterWords(undefined)).toBe('');
  });

  it('shows found beside expected', () => {
    expect(timeWords({ hz: 200, found_s: 0.62, usual_s: 0.7, expected_s: 0.58, within: true, within_four_in_five: true })).toBe(
      '0.62 s, expected 0.58 s',
    );
    expect(timeWords(null)).toBe('–');
  });
});
