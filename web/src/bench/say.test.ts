import { expect, test } from 'vitest';
import { ownWords, pitchCost, retuneWords, tollWords } from './say';

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

test.each([
  [1, 41, 'about 40 cents', 'one eighth of a turn'],
  [2, 83, 'about 80 cents', 'a quarter of a turn'],
  [4, 160, 'about 160 cents', 'half a turn'],
  [7, 287, 'about 290 cents', '7 eighths of a turn'],
])('%i eighths are said as a key turns', (eighths, lost_cents, lost, turn) => {
  const said = retuneWords({ eighths, lost_cents });
  expect(said).toContain(lost);
  expect(said).toContain(`by about ${turn},`);
  expect(said).toContain('Stop when the key gets hard.');
});
