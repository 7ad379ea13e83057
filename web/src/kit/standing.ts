// How a drum stands, as a word that goes with its picture.
import type { DrumKind, DrumStanding } from '../api/types';

export const KINDS: Record<DrumKind, string> = { snare: 'Snare', tom: 'Tom', floor_tom: 'Floor tom', kick: 'Kick' };

export const STANDINGS: Record<DrumStanding, string> = {
  unmeasured: 'not measured',
  fits: 'fits',
  off: 'does not fit',
  unchecked: 'to be checked',
};
