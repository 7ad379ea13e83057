import { describe, expect, it } from 'vitest';
import { differing, stepsOf, withMoves } from './steps';

describe('an evening on the stage', () => {
  it('has a step for each song and one before it for its break', () => {
    const steps = stepsOf([{ after_break: null }, { after_break: 'Interval' }, {}]);
    expect(steps.map(({ song, isBreak }) => `${song}${isBreak ? ' break' : ''}`)).toEqual(['0', '1 break', '1', '2']);
  });

  it('asks for what differs and for nothing else, each thing as often as it is there', () => {
    expect(differing(['gel pad at 12', 'gel pad at 12', 'tape'], ['gel pad at 12', 'ring'])).toEqual({
      off: ['gel pad at 12', 'tape'],
      on: ['ring'],
    });
    expect(differing(['tape', 'ring'], ['ring', 'tape'])).toBeUndefined();
    expect(differing([], [])).toBeUndefined();
  });

  it('moves what only goes to another place', () => {
    const things = new Map([
      ['gel pad at 12', { what: 'gel pad', place: 'at 12' }],
      ['gel pad at 3', { what: 'gel pad', place: 'at 3' }],
      ['tape at 3', { what: 'tape', place: 'at 3' }],
    ]);
    expect(withMoves({ off: ['gel pad at 12'], on: ['tape at 3', 'gel pad at 3'] }, things)).toEqual({
      off: [],
      on: ['tape at 3'],
      moved: ['gel pad, now at 3'],
    });
    // What nobody knows any more comes off.
    expect(withMoves({ off: ['an old towel'], on: ['gel pad at 3'] }, things)).toEqual({
      off: ['an old towel'],
      on: ['gel pad at 3'],
      moved: [],
    });
  });
});
