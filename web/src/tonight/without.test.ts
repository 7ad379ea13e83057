import { expect, it } from 'vitest';
import { without } from './without';

it('a copy lacks the one field, and shares nothing with what it was made from', () => {
  const kept = { id: 7, name: 'Saloon', room: { t60_s: [0.5, null] } };
  const copy = without(kept, 'id');
  expect(copy).toEqual({ name: 'Saloon', room: { t60_s: [0.5, null] } });
  copy.room.t60_s[0] = 9;
  expect(kept.room.t60_s[0]).toBe(0.5);
});
