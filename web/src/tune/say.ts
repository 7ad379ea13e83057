// Turns and pitches in words.
import { fixed, said } from '../shell/figures';
import type { LugPitch } from '../api/types';

const PARTS = ['', '⅛', '¼', '⅜', '½', '⅝', '¾', '⅞'];

/** Eighths of a turn as "¼", "1⅜", "2". */
export function turns(eighths: number): string {
  const count = Math.abs(eighths);
  const whole = Math.floor(count / 8);
  return `${whole > 0 ? whole : ''}${PARTS[count % 8] ?? ''}` || '0';
}

/** "¼ turn tighter", "1⅜ turns looser". */
export function turning(eighths: number): string {
  if (eighths === 0) return 'as it is';
  return `${turns(eighths)} ${Math.abs(eighths) > 8 ? 'turns' : 'turn'} ${eighths > 0 ? said('tighter') : said('looser')}`;
}

/** Interval from `from` to `to`, cents. */
export function centsBetween(from: number, to: number): number {
  return 1200 * Math.log2(to / from);
}

/** "+12", "−3", "0". */
export function signed(cents: number): string {
  const whole = Math.round(cents);
  return whole === 0 ? '0' : whole > 0 ? `+${whole}` : `−${-whole}`;
}

/** What a hoop ribbon shows, as a sentence. */
export function ribbonWords(lugs: LugPitch[], count: number, reference: number): string {
  if (lugs.length === 0) return `A hoop with ${count} lugs, none tapped yet.`;
  const each = lugs.map(({ lug, hz }) => `lug ${lug + 1}: ${fixed(hz, 1)} hertz, ${signed(centsBetween(reference, hz))} cents`);
  return `Pitch of ${lugs.length} of ${count} lugs. ${each.join('; ')}.`;
}
