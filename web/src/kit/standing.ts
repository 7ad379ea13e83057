// How a drum stands, as a word that goes with its picture.
import { said } from '../shell/figures';
import type { DrumStanding } from '../api/types';

export const STANDINGS: Record<DrumStanding, string> = {
  unmeasured: 'not measured',
  fits: said('fits'),
  nearly: 'nearly fits',
  off: 'does not fit',
  unchecked: 'to be checked',
  left_alone: 'left as it is',
  in_case: 'in its case',
};
