// What an evening on the stage consists of, and what there is to change from one state of a drum to another.
import type { EveningSong, SetupView } from '../api/types';

/** A song, or the break before it, in which there is time for the change. */
export interface Step {
  /** Which song, from 0; of a break the one that comes after it. */
  song: number;
  isBreak: boolean;
}

/** Something to do on one drum. */
export interface Change {
  drum_id: number;
  name: string;
  /** How it is to be. */
  setup: SetupView;
  /** Devices with amount and place. */
  off: string[];
  on: string[];
  /** Whether it was ticked. */
  done: boolean;
}

export const stepsOf = (songs: Pick<EveningSong, 'after_break'>[]): Step[] =>
  songs.flatMap(({ after_break }, song) => [...(after_break ? [{ song, isBreak: true }] : []), { song, isBreak: false }]);

/** What comes off and goes on where `is` lies on a drum and `wanted` should; none where it lies there already. */
export function differing(is: string[], wanted: string[]): { off: string[]; on: string[] } | undefined {
  const off = [...is];
  const on = wanted.filter((device) => {
    const at = off.indexOf(device);
    if (at >= 0) off.splice(at, 1);
    return at < 0;
  });
  return off.length + on.length > 0 ? { off, on } : undefined;
}
