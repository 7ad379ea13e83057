// Plans in words.
import type { PlacedDevice, PlanView, Price, School, Toll } from '../api/types';
import { cents } from '../shell/figures';

export const SCHOOLS: Record<School, string> = { open: 'open school', controlled: 'controlled school', dead: 'dead school' };

const TOLLS: Record<Toll, string> = {
  rebound: 'less rebound in the middle',
  looks: 'can be seen',
  residue: 'leaves residue',
  rattles: 'may rattle',
  falls_off: 'may fall off when played hard',
  in_the_way: 'in the way of brush, stick or beater',
  foot_force: 'the beater comes back less',
  wanders: 'wanders when the drum is carried',
};

/** What devices take or risk besides attack and pitch, each once. */
export function tollWords(devices: Pick<PlacedDevice, 'tolls'>[]): string[] {
  return [...new Set(devices.flatMap((device) => device.tolls))].map((toll) => TOLLS[toll]);
}

const PRICES: Record<Price, string> = {
  nothing: 'Needs nothing but a drum key',
  household: 'Lies about at home',
  little: 'Small change',
  bought: 'Bought for the purpose',
};

/** "Small change; can be seen, leaves residue." */
export function ownWords(device: Pick<PlacedDevice, 'tolls'> & { price: Price }): string {
  return `${[PRICES[device.price], tollWords([device]).join(', ')].filter(Boolean).join('; ')}.`;
}

/** Less than this no drum is heard to be off by. */
const HEARD_CENTS = 5;

/** ", pitch −13 cents", where it can be heard. */
export function pitchCost(value: number): string {
  return Math.abs(value) < HEARD_CENTS ? '' : `, pitch ${cents(value)}`;
}

/** A drift of the pitch that is worth a word, cents. */
const DRIFT_CENTS = 30;

/** What a plan leaves of the drift of the pitch, and, where rods may be turned, what could be done about it; nothing where it is small, or they are
 * turned already. */
export function driftWords({ expected, placements }: Pick<PlanView, 'expected' | 'placements'>, mayTurn: boolean): string {
  const down = Math.round(-expected.pitch_cents / 10) * 10;
  const rods = placements.some(({ device }) => device === 'rods_turned' || device === 'slack_lugs');
  if (down < DRIFT_CENTS || rods) return '';
  const back = mayTurn ? ' Who wants it back adds a turn of every rod under “Lay it out yourself”.' : '';
  return `The note falls by about ${down} cents, which is left as it is.${back}`;
}
