import { describe, expect, it } from 'vitest';
import type { ReadSong } from '../api/types';
import { ordered, possible, proposed, remark, taken } from './import';

const song = { title: 'Foam', genre: 'surf', bpm: 152 } as ReadSong['song'];
const row = (change: Partial<ReadSong>): ReadSong => ({ line: 2, title: 'Foam', song, same: false, ...change }) as ReadSong;

describe('a row that is taken in', () => {
  it('is added when nothing speaks against it, and waits for a word otherwise', () => {
    expect(proposed(row({}))).toBe('add');
    expect(proposed(row({ note: 'No genre given.' }))).toBe('add');
    for (const doubtful of [{ problem: 'Odd.' }, { known_as: 3 }, { again_from_line: 2 }, { song: null, problem: 'Bad.' }])
      expect(proposed(row(doubtful))).toBe('skip');
  });

  it('can replace a song of its name that differs, and nothing else', () => {
    expect(possible(row({}))).toEqual(['add', 'skip']);
    expect(possible(row({ known_as: 3 }))).toEqual(['add', 'replace', 'skip']);
    expect(possible(row({ known_as: 3, same: true }))).toEqual(['add', 'skip']);
    expect(possible(row({ song: null }))).toEqual(['skip']);
  });

  it('is spoken of as far as there is something to say', () => {
    expect(remark(row({}))).toBe('');
    expect(remark(row({ problem: 'There is no genre “x”.', again_from_line: 4 }))).toBe(
      'There is no genre “x”. The list has this title on line 4 too.',
    );
  });

  it('is sent as it was decided', () => {
    const rows = [row({}), row({ known_as: 3 }), row({ song: null }), row({})];
    expect(taken(rows, ['add', 'replace', 'add', 'skip'])).toEqual([
      { song, replaces: null },
      { song, replaces: 3 },
    ]);
  });

  it('goes onto a set list in the order of the file, known songs among the new ones', () => {
    const rows = [
      row({ known_as: 3, same: true }),
      row({}),
      row({ song: null, problem: 'Bad.', known_as: 9 }),
      row({ known_as: 4 }),
      row({}),
    ];
    expect(ordered(rows, ['skip', 'add', 'skip', 'replace', 'skip'], [11, 4])).toEqual([3, 11, 4]);
    expect(ordered(rows, ['add', 'add', 'skip', 'skip', 'add'], [20, 21, 22])).toEqual([20, 21, 4, 22]);
    expect(ordered([], [], [])).toEqual([]);
  });
});
