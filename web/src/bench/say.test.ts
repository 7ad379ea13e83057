import { expect, test } from 'vitest';
import type { Placement, PlanView } from '../api/types';
import { driftWords, ownWords, pitchCost, tollWords } from './say';

test('tolls are named once, however many devices have them', () => {
  expect(tollWords([{ tolls: ['residue', 'looks'] }, { tolls: ['residue'] }])).toEqual(['leaves residue', 'can be seen']);
  expect(tollWords([{ tolls: [] }])).toEqual([]);
});

test('what a device takes to own and risks is one sentence', () => {
  expect(ownWords({ price: 'little', tolls: ['residue', 'looks'] })).toBe('Small change; leaves residue, can be seen.');
  expect(ownWords({ price: 'household', tolls: [] })).toBe('Lies about at home.');
  expect(ownWords({ price: 'nothing', tolls: [] })).toBe('Needs nothing but a drum key.');
});

test('a drift of the pitch is told where it can be heard', () => {
  expect([pitchCost(-13.4), pitchCost(1), pitchCost(-4.9)]).toEqual([', pitch −13 cents', '', '']);
});

test('a note that falls and is left is said, and what is done about it already is not', () => {
  const plan = (cents: number, device: Placement['device']) => {
    const placements = [{ device, amount: 0, radius: 0.8, angle_deg: 180 }];
    return { placements, expected: { pitch_cents: cents } as PlanView['expected'] };
  };
  expect(driftWords(plan(-57, 'thin_cloth'), true)).toMatch(/falls by about 60 cents.*adds a turn of every rod/);
  expect(driftWords(plan(-57, 'thin_cloth'), false)).not.toContain('turn');
  expect([driftWords(plan(-20, 'gel_pad'), true), driftWords(plan(60, 'gel_pad'), true)]).toEqual(['', '']);
  expect([driftWords(plan(-57, 'rods_turned'), true), driftWords(plan(-250, 'slack_lugs'), true)]).toEqual(['', '']);
});
