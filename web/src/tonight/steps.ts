// What an evening on the stage consists of, and what there is to change from one state of a drum to another.
import type { EveningSong, PlacedThing, SetupView } from '../api/types';

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
  /** Whether it is not played in the song. */
  out: boolean;
  /** How it is to be. */
  setup: SetupView;
  /** Devices with amount and place. */
  off: string[];
  on: string[];
  /** Devices that stay on the drum, each with its new place. */
  moved: string[];
  /** Whether it was ticked. */
  done: boolean;
}

export const stepsOf = (songs: Pick<EveningSong, 'after_break'>[]): Step[] =>
  songs.flatMap(({ after_break }, song) => [...(after_break ? [{ song, isBreak: true }] : []), { song, isBreak: false }]);

/** What of `off` and `on` only goes to another place: `things` are devices by what they are and where they go. */
export function withMoves(
  { off, on }: { off: string[]; on: string[] },
  things: ReadonlyMap<string, PlacedThing>,
): Pick<Change, 'off' | 'on' | 'moved'> {
  const left = [...on];
  const moved: string[] = [];
  const gone = off.filter((device) => {
    const what = things.get(device)?.what;
    const at = what === undefined ? -1 : left.findIndex((other) => things.get(other)?.what === what);
    const [to] = at >= 0 ? left.splice(at, 1) : [];
    const thing = to === undefined ? undefined : things.get(to);
    if (thing) moved.push(`${thing.what}, now ${thing.place}`);
    return !thing;
  });
  return { off: gone, on: left, moved };
}

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
