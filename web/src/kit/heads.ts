// Heads as they are usual, and in words.
import type { Drum, DrumKind, Head } from '../api/types';

/** A new clear head: one ply, or two of `film_mil` together. */
export function head(film_mil: number, plies = 1): Head {
  return { film_mil, plies, coated: false, edge_ring: false, dot: false, oil: false, played_h: 0 };
}

const plain: Pick<Drum, 'shell' | 'hoops' | 'vents' | 'ports' | 'lower_mesh' | 'wires' | 'weight_g'> = {
  shell: 'wood',
  hoops: 'pressed_metal',
  vents: 1,
  ports: [],
  lower_mesh: false,
  wires: null,
  weight_g: null,
};

/** What a drum of each kind usually is. */
export const USUAL: Record<DrumKind, Omit<Drum, 'name' | 'kind'>> = {
  snare: {
    ...plain,
    diameter_in: 14,
    depth_in: 5.5,
    lugs: 10,
    batter: { ...head(10), coated: true },
    lower: head(3),
    wires: { strands: 20, tension: 'medium' },
  },
  tom: { ...plain, diameter_in: 12, depth_in: 8, lugs: 6, batter: head(10), lower: head(10) },
  floor_tom: { ...plain, diameter_in: 16, depth_in: 16, lugs: 8, batter: head(14, 2), lower: head(10) },
  kick: { ...plain, diameter_in: 22, depth_in: 16, lugs: 8, batter: head(14, 2), lower: head(10) },
  second_kick: { ...plain, diameter_in: 16, depth_in: 16, lugs: 8, batter: head(10), lower: head(10) },
  concert_tom: { ...plain, diameter_in: 13, depth_in: 10, lugs: 6, batter: head(10), lower: null },
  concert_bass: { ...plain, diameter_in: 36, depth_in: 18, lugs: 12, batter: head(10), lower: head(10) },
  marching_bass: { ...plain, diameter_in: 24, depth_in: 14, lugs: 10, batter: head(12), lower: head(12) },
  cymbal: { ...plain, diameter_in: 16, depth_in: 2, lugs: 1, batter: head(10), lower: null },
  hi_hat: { ...plain, diameter_in: 14, depth_in: 2, lugs: 1, batter: head(10), lower: null },
  other: { ...plain, diameter_in: 12, depth_in: 4, lugs: 1, batter: head(10), lower: null },
  hand_drum: { ...plain, diameter_in: 14, depth_in: 3, lugs: 8, vents: 0, batter: head(10), lower: null },
};

/** Traits that a head can have besides its film. */
export const TRAITS = [
  { name: 'coated', word: 'Coated' },
  { name: 'edge_ring', word: 'Edge ring' },
  { name: 'dot', word: 'Dot' },
  { name: 'oil', word: 'Oil' },
] as const;
