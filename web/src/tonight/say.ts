// Words for what an evening holds.
import type { CellView, Evening, EveningPlan, NoteValue, Weighing } from '../api/types';
import { counted, said } from '../shell/figures';

export const WEIGHINGS: Record<Weighing, { name: string; words: string }> = {
  one_setup: { name: 'One setup for all', words: 'nothing is touched between songs' },
  few_looks: { name: 'A few looks', words: 'the kit changes only if you would hear it, with time to spare' },
  no_compromise: { name: 'No compromise', words: 'every song as it should be, however long the change takes' },
};

export const NOTES: Record<NoteValue, string> = {
  thirty_second: said('thirty-second'),
  sixteenth_triplet: 'sixteenth triplet',
  sixteenth: said('sixteenth'),
  eighth_triplet: 'eighth triplet',
  eighth: said('eighth'),
  quarter_triplet: 'quarter triplet',
  dotted_eighth: 'dotted eighth',
  quarter: said('quarter'),
  dotted_quarter: 'dotted quarter',
  half: said('half'),
  dotted_half: 'dotted half',
  whole: said('whole'),
};

/** "25 s", "1:30 min", "15 min": a time between songs. */
export function gap(seconds: number): string {
  if (seconds < 90) return `${Math.round(seconds)} s`;
  const minutes = Math.floor(seconds / 60);
  const rest = Math.round(seconds - 60 * minutes);
  return rest === 0 ? `${minutes} min` : `${minutes}:${String(rest).padStart(2, '0')} min`;
}

/** What a drum had on it before something else: "instead of 2 gel pads". */
export function instead(before: string | undefined, now: string | undefined): string {
  if (before === undefined || before === 'open') return '';
  return before === now ? 'in other places' : `instead of ${before}`;
}

/** One plan in a line. */
export function outcome(plan: EveningPlan): string {
  const fits = `${plan.fitting} of ${plan.cells} fit`;
  const changes = plan.changes === 0 ? 'no changes' : `${counted(plan.changes, 'change', 'changes')}, ${gap(plan.change_s)} in all`;
  const late = plan.late > 0 ? `, ${counted(plan.late, 'gap', 'gaps')} too short` : '';
  return `${fits}; ${changes}${late}`;
}

/** What a setup is called: by the player, else by what is on the drum. */
export const called = (setup: { name?: string | null; words: string }) => setup.name ?? setup.words;

/** How good a cell is, in few words. */
export function standing(cell: CellView): string {
  return cell.fits ? 'fits' : (cell.off?.replace(/\.$/, '') ?? 'no clear body');
}

/** Steps that nobody would notice in an evening. */
const HARDLY_WORSE = 1;

/** Whether anything better is in reach, and another way that is as good or hardly worse; nothing where neither is known. */
export function second(evening: Evening, plan: EveningPlan): string {
  const best = plan.proved ? 'Nothing better is in reach.' : '';
  const next = plan.second_best;
  if (!next || next.more > HARDLY_WORSE) return best;
  const drums = [...new Set(next.differs.map((each) => each.drum))];
  const [first] = next.differs;
  const drum = first && evening.drums[first.drum];
  const setup = first && drum?.setups[first.setup];
  const words = setup && called(setup);
  const songs = new Set(next.differs.map((each) => each.song)).size;
  const song = first && evening.songs[first.song]?.song.title;
  const where = songs === 1 ? `in “${song}”` : songs === evening.songs.length ? 'all evening' : `in ${songs} songs from “${song}” on`;
  const how =
    drums.length === 1 && drum && words
      ? `${words} on the ${drum.name} ${where}`
      : `another choice on ${counted(drums.length, 'drum', 'drums')} ${where}`;
  return `${best} ${next.more < 0.05 ? 'As good' : 'Hardly worse'} would be ${how}.`.trim();
}
