import { describe, expect, it } from 'vitest';
import { bytes, cents, counted, decibels, effort, hertz, percent, seconds, unbroken } from './figures';

describe('figures', () => {
  it('stay on a line with their units', () => {
    expect(unbroken('Rings 0.38 s too long at 292 Hz')).toBe('Rings 0.38\u00a0s too long at 292\u00a0Hz');
    expect(unbroken('5 strikes of 2 heads')).toBe('5 strikes of 2 heads');
  });

  it('carry their unit, to the digits that mean something', () => {
    expect(seconds(0.6249)).toBe('0.62 s');
    expect(seconds(0.0994)).toBe('99 ms');
    expect(seconds(0.0996)).toBe('0.10 s');
    expect(hertz(337.6)).toBe('338 Hz');
    expect(percent(0.456)).toBe('46 %');
    expect(effort(45)).toBe('45 s');
    expect(effort(600)).toBe('10 min');
  });

  it('have a true minus, and none before zero', () => {
    expect(decibels(-0.31)).toBe('−0.3 dB');
    expect(decibels(-0.04)).toBe('0.0 dB');
    expect(cents(-12.4)).toBe('−12 cents');
    expect(cents(-0.2)).toBe('0 cents');
  });

  it('say that they are not known', () => {
    for (const show of [seconds, hertz, percent, decibels, cents]) {
      expect(show(null)).toBe('–');
      expect(show(undefined)).toBe('–');
    }
  });

  it('count in words', () => {
    expect([counted(1, 'strike', 'strikes'), counted(0, 'strike', 'strikes'), counted(5, 'strike', 'strikes')]).toEqual([
      '1 strike',
      '0 strikes',
      '5 strikes',
    ]);
  });
});

describe('sizes', () => {
  it('are told in the unit that fits them', () => {
    expect([0, 400, 820_000, 1_400_000, 38_000_000, 12_300_000_000].map(bytes)).toEqual([
      '0 kB',
      '0 kB',
      '820 kB',
      '1.4 MB',
      '38 MB',
      '12 GB',
    ]);
  });
});
