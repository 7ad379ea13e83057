// Plans in words.
import type { PlacedDevice, Price, Retune, School, Toll } from '../api/types';
import { cents } from '../shell/figures';

export const SCHOOLS: Record<School, string> = { open: 'open school', controlled: 'controlled school', dead: 'dead school' };

const TOLLS: Record<Toll, string> = {
  rebound: 'less rebound in the middle',
  looks: 'can be seen',
  residue: 'leaves residue',
  rattles: 'may rattle',
  falls_off: 'may fall off',
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

const EIGHTHS = ['no', 'one eighth', 'a quarter', 'three eighths', 'half'];

/** Less than this no drum is heard to be off by. */
const HEARD_CENTS = 5;

/** ", pitch −13 cents", where it can be heard. */
export function pitchCost(value: number): string {
  return Math.abs(value) < HEARD_CENTS ? '' : `, pitch ${cents(value)}`;
}

/** How to get back the pitch that mass on the head takes. */
export function retuneWords({ eighths, lost_cents }: Retune): string {
  const turn = EIGHTHS[eighths] ? `${EIGHTHS[eighths]} of a turn`.replace('half of', 'half') : `${eighths} eighths of a turn`;
  return `The pitch falls by about ${Math.round(lost_cents / 10) * 10} cents. To get it back, turn every rod of the batter head up by about ${turn}, crosswise; Tune says it exactly. Stop when the key gets hard.`;
}
