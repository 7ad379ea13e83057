import { expect, it } from 'vitest';
import { centsBetween, ribbonWords, signed, turning, turns } from './say';

it('says turns as they are made', () => {
  expect([1, 2, 3, 8, 11, -16, 0].map(turns)).toEqual(['⅛', '¼', '⅜', '1', '1⅜', '2', '0']);
  expect(turning(2)).toBe('¼ turn tighter');
  expect(turning(-11)).toBe('1⅜ turns looser');
  expect(turning(0)).toBe('as it is');
});

it('says how far lugs are from one another', () => {
  expect(centsBetween(220, 440)).toBeCloseTo(1200);
  expect([12.4, -3.2, 0.3].map(signed)).toEqual(['+12', '−3', '0']);
  const lug = { lug: 2, hz: 220, note: { name: 'A3', cents: 0 }, sd_cents: 1 };
  expect(ribbonWords([lug], 6, 220)).toBe('Pitch of 1 of 6 lugs. lug 3: 220.0 hertz, 0 cents.');
  expect(ribbonWords([], 6, 220)).toContain('none tapped');
});
