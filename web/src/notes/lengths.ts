// How long notes are written, and how played ones lie on their ruler.
import type { NoteValue } from '../api/types';

const QUARTERS: Record<NoteValue, number> = {
  thirty_second: 1 / 8,
  sixteenth_triplet: 1 / 6,
  sixteenth: 1 / 4,
  eighth_triplet: 1 / 3,
  eighth: 1 / 2,
  quarter_triplet: 2 / 3,
  dotted_eighth: 3 / 4,
  quarter: 1,
  dotted_quarter: 3 / 2,
  half: 2,
  dotted_half: 3,
  whole: 4,
};

/** Length of a note at so many quarter notes a minute, s. */
export const lengthOf = (value: NoteValue, bpm: number) => (60 / bpm) * QUARTERS[value];

/** The right end of a ruler on which a note of `written` s and all that were played (s) have room, s. */
export const rulerEnd = (written: number, played: number[]) => 1.08 * Math.max(1.6 * written, ...played);
