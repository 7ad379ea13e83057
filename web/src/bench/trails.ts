// What the ember trails show: the partials that are heard, measured, expected and found lying under one another.
import type { AudibleLength, Bench, DecayProfile, Partial, PlanView, Wanted } from '../api/types';

export type Layer = 'open' | 'expected' | 'found';

/** One bar: a partial as it decays. */
export interface Trail {
  layer: Layer;
  /** Its own pitch, Hz: what lies on a head moves it. */
  hz: number;
  levelDb: number;
  t60: number;
  /** How long it is heard under the band, s. */
  heard: number;
  /** Bounds of `heard` that hold nine times in ten. */
  doubt: { low: number; high: number } | undefined;
}

export interface Row {
  hz: number;
  /** How the drum moves in it, in a few words; empty where nobody knows. */
  motion: string;
  part: 'body' | 'ring' | undefined;
  /** The higher member of its family, where an uneven head has split a pair in two, Hz. */
  beatsWith: number | undefined;
  trails: Trail[];
}

/** Mass on a head lowers its partials, by up to about this much (logarithm of the ratio). */
const SAME = 0.12;
/** Whether two partials are one tone: by their names, or by their pitch where a promise from before names has none. */
function alike(a: Partial, b: Partial, named: boolean): boolean {
  if (tone(a) !== undefined && tone(b) !== undefined) return tone(a) === tone(b);
  return !named && Math.abs(Math.log(b.hz / a.hz)) < SAME;
}

const tone = (partial: Partial) => (partial.tone == null ? undefined : JSON.stringify(partial.tone));

/** For each of `from`, its counterpart among `to`, each one once: of the same tone the nearest in pitch. */
function matched(from: Partial[], to: Partial[]): Map<Partial, Partial> {
  const named = to.some((partial) => tone(partial) !== undefined);
  const likely = from.flatMap((a) => to.filter((b) => alike(a, b, named)).map((b) => ({ a, b, apart: Math.abs(Math.log(b.hz / a.hz)) })));
  const found = new Map<Partial, Partial>();
  const taken = new Set<Partial>();
  for (const { a, b } of likely.sort((x, y) => x.apart - y.apart)) {
    if (found.has(a) || taken.has(b)) continue;
    found.set(a, b);
    taken.add(b);
  }
  return found;
}

/** Partials, and how long each of them is heard. */
interface Sounding {
  partials: Partial[];
  audible: (AudibleLength | null)[];
}

function trail(layer: Layer, partial: Partial, of: Sounding | undefined): Trail | undefined {
  const t60 = partial.t60_s;
  const heard = of?.audible[of.partials.indexOf(partial)];
  if (t60 == null || !heard) return undefined;
  return { layer, hz: partial.hz, levelDb: partial.level_db, t60, heard: heard.length_s, doubt: heard.range ?? undefined };
}

/** The partial that a profile speaks of as body or ring. */
function ofPart(part: Row['part'], partials: Partial[] | undefined, profile: DecayProfile | undefined): Partial | undefined {
  const hz = part === 'body' ? profile?.body_hz : part === 'ring' ? profile?.ring_hz : undefined;
  return hz == null ? undefined : partials?.find((each) => each.hz === hz);
}

/** Rows low to high for what is on the bench; `plan` adds what it should do where nothing is on the drum, or while it is laid out. */
export function rows(bench: Bench, plan: PlanView | undefined): Row[] {
  const { open, found } = bench;
  const base = open ?? found;
  if (!base) return [];
  const { body_hz, ring_hz } = base.summary.profile;
  const laidOut = plan?.offer === 'own' ? plan : undefined;
  const promise = laidOut ?? bench.treatment?.plan ?? plan;
  const expected = promise?.expected;
  const promised = promise && { partials: promise.expected.partials, audible: promise.audible };
  const shoulds = matched(base.partials, expected?.partials ?? []);
  const founds = matched(base.partials, found?.partials ?? []);
  const known = base.partials.map((partial, at): Row => {
    const part = partial.hz === body_hz ? 'body' : partial.hz === ring_hz ? 'ring' : undefined;
    const before = open && trail('open', partial, open);
    // Body and ring are those of the figures, also where a pair of tones has come of one.
    const should = ofPart(part, expected?.partials, expected?.profile) ?? shoulds.get(partial);
    const is = ofPart(part, found?.partials, found?.summary.profile) ?? founds.get(partial);
    const trails = [before, should && trail('expected', should, promised), is && trail('found', is, found ?? undefined)];
    const beatsWith = base.families.find((pair) => pair.low_hz === partial.hz)?.high_hz;
    return { hz: partial.hz, motion: base.motions[at] ?? '', part, beatsWith, trails: trails.filter((each) => each != null) };
  });
  // What is heard only now, with something on the drum, has a row of its own.
  const shown = new Set(known.flatMap((row) => row.trails.filter((each) => each.layer === 'found').map((each) => each.hz)));
  const fresh = (open ? (found?.partials ?? []) : []).filter((partial) => !shown.has(partial.hz));
  const added = fresh.map((partial): Row => {
    const trails = [trail('found', partial, found ?? undefined)].filter((each) => each != null);
    return { hz: partial.hz, motion: '', part: undefined, beatsWith: undefined, trails };
  });
  return [...known, ...added].filter((row) => row.trails.some((each) => each.heard > 0)).sort((a, b) => a.hz - b.hz);
}

/** The families of which both members are among `shown`, one under the other: the index of the lower, and beats a second. */
export function families(shown: Row[]): { at: number; beatHz: number }[] {
  return shown.flatMap((row, at) => {
    const next = shown[at + 1];
    return next && next.hz === row.beatsWith ? [{ at, beatHz: next.hz - row.hz }] : [];
  });
}

/** The rows that are heard longest, at most `count`, still low to high; body and ring among them. */
export function loudest(all: Row[], count: number): Row[] {
  const weight = (row: Row) => (row.part ? Infinity : Math.max(...row.trails.map((each) => each.heard)));
  const kept = new Set([...all].sort((a, b) => weight(b) - weight(a)).slice(0, count));
  return all.filter((row) => kept.has(row));
}

/** Nothing is heard for a minute: what may last as long is something of which nothing is wanted. */
const NEVER_S = 60;

/** Between which lengths body or overtones are wanted, s; none where any length will do. */
export function wantedLength(wanted: Wanted, part: 'body' | 'ring'): { least: number; most: number } | undefined {
  const most = part === 'body' ? wanted.body_length_most_s : wanted.ring_length_most_s;
  return most < NEVER_S ? { least: part === 'body' ? wanted.body_length_least_s : 0, most } : undefined;
}
