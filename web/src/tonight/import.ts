// What becomes of each row of a list that is taken in.
import type { NewSong, ReadSong } from '../api/types';

export type Fate = 'add' | 'replace' | 'skip';

/** What is proposed for a row: new songs are added, known and doubtful ones wait for a word. */
export function proposed(row: ReadSong): Fate {
  if (!row.song || row.problem || row.known_as != null || row.again_from_line != null) return 'skip';
  return 'add';
}

/** Fates that make sense for a row. */
export function possible(row: ReadSong): Fate[] {
  if (!row.song) return ['skip'];
  return row.known_as != null && !row.same ? ['add', 'replace', 'skip'] : ['add', 'skip'];
}

/** What has to be said about a row, best first; nothing where all is well. */
export function remark(row: ReadSong): string {
  const said = [
    row.problem,
    row.same ? 'You have this very song already.' : row.known_as != null ? 'You have a song of this name; this one differs.' : undefined,
    row.again_from_line != null ? `The list has this title on line ${row.again_from_line} too.` : undefined,
    row.note,
  ];
  return said.filter((each) => each).join(' ');
}

/** The songs to be sent. */
export function taken(rows: ReadSong[], fates: Fate[]): NewSong[] {
  return rows.flatMap((row, index) => {
    const fate = fates[index];
    if (!row.song || fate === 'skip' || fate === undefined) return [];
    return [{ song: row.song, replaces: fate === 'replace' ? row.known_as : null }];
  });
}

/** Songs of the list in the order of the file: those taken in, under the numbers they got, and those that were there before. */
export function ordered(rows: ReadSong[], fates: Fate[], ids: number[]): number[] {
  const left = [...ids];
  return rows.flatMap((row, index) => {
    const fate = fates[index];
    const id = row.song && (fate === 'add' || fate === 'replace') ? left.shift() : row.problem ? undefined : row.known_as;
    return id == null ? [] : [id];
  });
}
