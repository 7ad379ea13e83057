// Every figure of a decay profile, as it is called and shown.
import type { DecayProfile } from '../api/types';
import { cents, decibels, hertz, percent, seconds } from '../shell/figures';

export interface ShownFigure {
  name: string;
  key: keyof DecayProfile;
  show: (value: number | null | undefined) => string;
}

/** What became of a figure; nothing for one that is not shown. */
export function changeWords(figure: string, before: number | null | undefined, after: number | null | undefined): string | undefined {
  const shown = FIGURES.find(({ key }) => key === figure);
  if (!shown) return undefined;
  const [from, to] = [shown.show(before), shown.show(after)];
  return from === to ? `${shown.name}: ${from}, changed by less than is shown` : `${shown.name}: ${from} becomes ${to}`;
}

export const FIGURES: ShownFigure[] = [
  { name: 'Body pitch', key: 'body_hz', show: hertz },
  { name: 'Body falls 60 dB in', key: 'body_t60_s', show: seconds },
  { name: 'Ring pitch', key: 'ring_hz', show: hertz },
  { name: 'Ring falls 60 dB in', key: 'ring_t60_s', show: seconds },
  { name: 'Overtones, 80 to 400 ms', key: 'ring_share', show: percent },
  { name: 'All falls 20 dB in', key: 'fall_20_s', show: seconds },
  { name: 'All falls 40 dB in', key: 'fall_40_s', show: seconds },
  { name: 'Attack index', key: 'attack_index_db', show: decibels },
  { name: 'Glide', key: 'glide_cents', show: cents },
  { name: 'Buzz, 50 to 400 ms', key: 'buzz_share', show: percent },
  { name: 'Buzz falls 20 dB in', key: 'buzz_s', show: seconds },
];
