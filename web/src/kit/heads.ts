// Heads as they are usual, and in words.
import type { Head } from '../api/types';

/** A new clear head: one ply, or two of `film_mil` together. */
export function head(film_mil: number, plies = 1): Head {
  return { film_mil, plies, coated: false, edge_ring: false, dot: false, oil: false, inside_out: false, patch: false, played_h: 0 };
}

/** Traits that a head can have besides its film. */
export const TRAITS = [
  { name: 'coated', word: 'Coated' },
  { name: 'edge_ring', word: 'Edge ring' },
  { name: 'dot', word: 'Dot' },
  { name: 'oil', word: 'Oil' },
  { name: 'patch', word: 'Patch in the middle' },
  { name: 'inside_out', word: 'Inside out' },
] as const;
