// What tests taught, in words.
import type { DeviceStrength, EighthTurn, HeadFamily, Made, Score, ShelfDevice, TestedTime } from '../api/types';
import { counted, percent, seconds, fixed } from '../shell/figures';

/** What a device is called: a thing of the player's own by the name it was given. */
export function nameOf(item: Pick<ShelfDevice, 'name' | 'made'>): string {
  return item.made?.name ?? item.name;
}

/** "20 × 20 cm, 14 g". */
export function madeWords({ length_m, width_m, mass_kg }: Made): string {
  const plain = (value: number) => String(Math.round(10 * value) / 10);
  return `${plain(100 * length_m)} × ${plain(100 * width_m)} cm, ${plain(1000 * mass_kg)} g`;
}

/** Nearer to the usual than this is as usual, as a ratio. */
const AS_USUAL = 1.07;
/** Fewer decay times than this make no score. */
const FEWEST = 6;

/** "An eighth of a turn moves a head by about 34 cents (31 to 38), from 3 tests". */
function turnWords({ cents, low, high }: EighthTurn, tests: number): string {
  const moves = `An eighth of a turn moves a head by about ${Math.round(cents)} cents (${Math.round(low)} to ${Math.round(high)})`;
  return tests === 0 ? `${moves}: not tested yet.` : `${moves}, from ${counted(tests, 'test', 'tests')}.`;
}

/** "1.4 times as strong as usual (1.1 to 1.8), from 3 tests". */
export function strengthWords(strength: DeviceStrength): string {
  if (strength.eighth) return turnWords(strength.eighth, strength.tests);
  if (strength.tests === 0) return 'Not tested yet: taken as usual.';
  const { times, low, high, tests } = strength;
  const bounds = `${fixed(low, 2)} to ${fixed(high, 2)}`;
  const from = `from ${counted(tests, 'test', 'tests')}`;
  if (times < AS_USUAL && times > 1 / AS_USUAL) return `As strong as usual (${bounds}), ${from}.`;
  return `${fixed(times, 2)} times as strong as usual (${bounds}), ${from}.`;
}

const FAMILIES: Record<HeadFamily, string> = {
  single_ply: 'heads of one ply',
  double_ply: 'heads of two plies',
  built_in: 'heads with damping built in',
};

/** "On heads of one ply 1.52 times (1.20 to 1.90), from 3 tests; on heads of two plies ..." Nothing where tests have not told. */
export function headsWords({ on_heads }: DeviceStrength): string {
  const words = on_heads.map(
    ({ family, times, low, high, tests }) =>
      `on ${FAMILIES[family]} ${fixed(times, 2)} times (${fixed(low, 2)} to ${fixed(high, 2)}), from ${counted(tests, 'test', 'tests')}`,
  );
  const all = words.join('; ');
  return all && `${all[0]?.toUpperCase()}${all.slice(1)}.`;
}

/** Wider bounds than this of a mass, as a ratio, tell nothing that the prior does not. */
const MASS_KNOWN = 2.2;

/** "Its mass on the head: 1.20 times the usual (1.00 to 1.50)." Nothing where tests have not told. */
export function massWords({ mass_times, mass_low, mass_high, tests }: DeviceStrength): string {
  if (tests === 0 || mass_high / mass_low > MASS_KNOWN) return '';
  return `Its mass on the head: ${fixed(mass_times, 2)} times the usual (${fixed(mass_low, 2)} to ${fixed(mass_high, 2)}).`;
}

/** Wider bounds than this of an exponent tell nothing that the prior does not. */
const EXPONENT_KNOWN = 0.42;

/** "An octave up it holds 1.19 times as strongly (1.05 to 1.32)." Nothing where tests have not told. */
export function exponentWords({ exponent, exponent_low, exponent_high, tests }: DeviceStrength): string {
  if (tests === 0 || exponent_high - exponent_low > EXPONENT_KNOWN) return '';
  const [times, low, high] = [exponent, exponent_low, exponent_high].map((power) => fixed(2 ** power, 2));
  return `An octave up it holds ${times} times as strongly (${low} to ${high}).`;
}

/** How good predictions were, one sentence each. */
export function scoreWords(score: Score): string[] {
  if (score.times === 0) return [];
  const words = [`${score.within} of ${score.times} decay times lay where they were expected; nine in ten should.`];
  words.push(`${score.within_four_in_five} of them lay within the narrower bounds that should hold four times in five.`);
  // The first tests had nothing to learn from: of a few, the error says nothing.
  if (score.times >= FEWEST && score.usual_error != null && score.learned_error != null) {
    words.push(
      `The median error was ${percent(score.learned_error)} with what earlier tests had taught; taking all devices as usual it would have been ${percent(score.usual_error)}.`,
    );
  }
  return words;
}

/** What one test made of a device: "then taken as 1.32 times the usual (0.83 to 2.09)". */
export function afterWords(after: DeviceStrength | undefined): string {
  return after ? `Then taken as ${fixed(after.times, 2)} times the usual (${fixed(after.low, 2)} to ${fixed(after.high, 2)}).` : '';
}

/** "0.62 s, expected 0.58 s". */
export function timeWords(time: TestedTime | null | undefined): string {
  return time ? `${seconds(time.found_s)}, expected ${seconds(time.expected_s)}` : '–';
}
