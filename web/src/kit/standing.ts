// How a drum stands, as a word that goes with its picture.
import type { DrumKind, DrumStanding } from '../api/types';

/** Kinds of an ordinary kit. */
export const OF_A_KIT = { snare: 'Snare', tom: 'Tom', floor_tom: 'Floor tom', kick: 'Kick' } as const;

export const KINDS: Record<DrumKind, string> = {
  ...OF_A_KIT,
  second_kick: 'Floor tom as a kick',
  concert_tom: 'Concert tom',
  concert_bass: 'Concert bass drum',
  marching_bass: 'Marching bass drum',
  hand_drum: 'Hand drum',
  cymbal: 'Cymbal',
  hi_hat: 'Hi-hat',
  other: 'Other drum',
};

/** Whether it is a plate of metal. */
export const isMetal = (kind: DrumKind) => kind === 'cymbal' || kind === 'hi_hat';

/** Whether it has heads that are tuned and changed. */
export const hasHeads = (kind: DrumKind) => !isMetal(kind) && kind !== 'other';

/** Whether a drum stands or hangs with its head upright, the floor below. */
export const isUpright = (kind: DrumKind) => kind === 'kick' || isDampedByHand(kind);

/** Whether its note is ended by hand or knee, as long as it is written. */
export const isDampedByHand = (kind: DrumKind) => kind === 'concert_bass' || kind === 'marching_bass';

/** Whether a pedal strikes it. */
export const hasPedal = (kind: DrumKind) => kind === 'kick' || kind === 'second_kick';

/** The word for a drum's second head, as a title. */
export function otherHead(kind: DrumKind): string {
  if (kind === 'kick') return 'Front head';
  return isDampedByHand(kind) ? 'Other head' : 'Lower head';
}

export const STANDINGS: Record<DrumStanding, string> = {
  unmeasured: 'not measured',
  fits: 'fits',
  nearly: 'nearly fits',
  off: 'does not fit',
  unchecked: 'to be checked',
};
