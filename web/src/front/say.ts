// Words and codes for how a drum's other end is closed.
import type { BeaterFeel, Front, FrontPage, FrontWay, LevelChange, MicrophoneAccess, Placement, Port, Rebound } from '../api/types';
import type { HoleAsked } from '../api/client';
import { hertz, seconds, fixed } from '../shell/figures';

export const MICROPHONES: Record<MicrophoneAccess, string> = {
  none: 'no microphone gets in',
  small: 'a small microphone gets in',
  fits: 'a microphone gets in',
  free: 'any microphone gets in',
};

export const FEELS: Record<BeaterFeel, string> = {
  pushes_back: 'the air pushes the beater back',
  between: 'some air leaves',
  one_clean_hit: 'one clean hit, the air leaves',
};

/** Levels of further landings are known to some 4 dB: this much is no difference. */
const NEARLY_DB = 3;

/** What a beater does that is left in the head. */
export function reboundWords(rebound: Rebound): string {
  const range = rebound.second_s;
  if (!range) return 'a beater left in the head stays there: one clean hit';
  const ms = (time: number) => Math.round(1000 * time);
  const when = ms(range.low) === ms(range.high) ? `${ms(range.low)} ms` : `${ms(range.low)} to ${ms(range.high)} ms`;
  const [again] = rebound.again;
  if (!again) {
    return `a beater left in the head stays there under a usual foot: one clean hit; a lighter foot's may strike again after ${when}`;
  }
  const softer = again.level_db > -NEARLY_DB ? 'nearly as hard' : `about ${Math.round(-again.level_db)} dB softer`;
  const usual = `under a usual foot after ${ms(again.at_s)} ms, ${softer}`;
  if (rebound.fewest > 0) return `a beater left in the head strikes again after ${when}, whatever the foot; ${usual}`;
  return `a beater left in the head strikes again: ${usual}; a firmer foot may keep it there`;
}

/** A front as a word, by which it is told from others. */
export function frontCode(front: Front): string {
  if (front.state !== 'ported') return front.state;
  return `ports:${front.ports.map((port) => `${port.diameter_in}@${port.radius.toFixed(4)}@${port.angle_deg.toFixed(2)}`).join(':')}`;
}

/** Where the body's pitch lies, with its bounds. */
export function pitch(way: Pick<FrontWay, 'expected' | 'body_hz'>): string {
  const range = way.body_hz ? ` (${Math.round(way.body_hz.low)} to ${Math.round(way.body_hz.high)})` : '';
  return `${hertz(way.expected.profile.body_hz)}${range}`;
}

/** How long the body lasts: a thump has no pitch. */
export function bodyWords(way: Pick<FrontWay, 'expected' | 'body_hz' | 'thump'>): string {
  const { profile, body_t60_s: range } = way.expected;
  const between = range ? ` (${seconds(range.low)} to ${seconds(range.high)})` : '';
  return way.thump
    ? `A thump of ${seconds(profile.body_t60_s)}${between}, no tone`
    : `Body ${seconds(profile.body_t60_s)}${between} at ${pitch(way)}`;
}

/** A placement as a word, by which it is told from others. */
export function placedCode(placement: Placement): string {
  return `${placement.device}:${placement.amount}:${placement.radius.toFixed(4)}:${placement.angle_deg.toFixed(2)}`;
}

/** A change of level with its bounds. */
export function changed({ db, low, high }: LevelChange): string {
  return high - low >= 0.1 ? `${signed(db)} dB (${signed(low)} to ${signed(high)})` : `${signed(db)} dB`;
}

/** With its sign; a typographic minus. */
export function signed(value: number): string {
  const text = fixed(Math.abs(value), 1);
  return text === '0.0' ? text : `${value < 0 ? '−' : '+'}${text}`;
}

/** What trials have taught about openings on this kit. */
export function openingWords(page: FrontPage): string {
  if (page.tests === 0) return 'How much an opening takes is from experience; no published source has it. A trial corrects it.';
  const range = `${fixed(page.opening_low, 2)} to ${fixed(page.opening_high, 2)}`;
  const times = page.tests === 1 ? 'One trial' : `${page.tests} trials`;
  return `${times} on this kit: openings take ${fixed(page.opening, 2)} times what is usual (${range}).`;
}

/** A hole's figures, as fine as anybody cuts. */
export function holeQuery(port: Port, ring_mm: number, logo_mm: number): Omit<HoleAsked, 'side' | 'paper'> {
  const rounded = (value: number, digits: number) => Number(value.toFixed(digits));
  return { diameter_in: port.diameter_in, radius: rounded(port.radius, 4), angle_deg: rounded(port.angle_deg, 2), ring_mm, logo_mm };
}

/** How long the body is heard against the beat. */
export function beatWords(beats: number | null | undefined, bpm: number): string {
  if (beats == null) return 'How long the body is heard is not known.';
  return `The body is heard for ${fixed(beats, 1)} beats at ${Math.round(bpm)} bpm.`;
}
