// The Tune place: one head of the chosen drum.
import { api } from '../api/client';
import { hasHeads } from '../kit/kinds.svelte';
import type { Head, HeadSide, SeatingTask, Tuning } from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { server } from '../shell/server.svelte';
import { notices } from '../shell/notices.svelte';
import { workbench } from '../bench/workbench.svelte';
import { view } from '../shell/view.svelte';
import { guide } from './guide.svelte';
import { tapping } from './tapping.svelte';

const SEATING: Record<SeatingTask, string> = { new_head: 'A new head', off_and_on: 'Off and on again', reseat: 'Seating' };

interface Step {
  words: string;
  /** What there is to know before it. */
  hint: string;
  run: () => void;
}

class Tune {
  side = $state<HeadSide>('batter');
  tuning = $state.raw<Tuning>();
  /** One head, or the kit's pitches together. */
  part = $state<'head' | 'kit'>('head');
  #asked = 0;

  constructor() {
    tapping.after = () => void this.load();
  }

  /** Reads the head anew. */
  async load(): Promise<void> {
    const drum = drumKit.drumId;
    const asked = ++this.#asked;
    if (drum === undefined || (drumKit.drum && !hasHeads(drumKit.drum.drum.kind))) {
      this.tuning = undefined;
      return;
    }
    await server.attempt(async () => {
      const tuning = await api.tuning(drum, this.side);
      if (asked === this.#asked) this.tuning = tuning;
    });
  }

  async choose(side: HeadSide): Promise<void> {
    this.side = side;
    await this.load();
  }

  /** Taps a round, or goes on with one that was broken off. */
  tap(options: { again_lug?: number; anew?: boolean } = {}) {
    if (drumKit.drumId !== undefined) tapping.begin(drumKit.drumId, this.side, options);
  }

  async setWanted(hz: number | null): Promise<void> {
    const tuning = this.tuning;
    if (!tuning || tuning.wanted_hz === hz) return;
    const { drum, side, wanted_hz } = tuning;
    await server.attempt(async () => {
      this.tuning = await api.setWantedHz(drum.id, side, hz);
      notices.add(hz === null ? 'Even, at the pitch it has.' : 'The pitch is noted.', () =>
        api.setWantedHz(drum.id, side, wanted_hz ?? null).then(() => this.load()),
      );
    });
  }

  /** Notes what pitch the lower head is to have, and goes there. */
  async wishLower(hz: number): Promise<void> {
    if (this.side !== 'lower') await this.choose('lower');
    await this.setWanted(hz);
  }

  /** Reports what was turned after the newest round. */
  async turned(eighths: number[]): Promise<void> {
    const round = this.tuning?.rounds[0];
    if (!round) return;
    await server.attempt(async () => {
      this.tuning = await api.setTurned(round.id, eighths);
      notices.add('Noted as turned. Tap a round again.', () => api.setTurned(round.id, null).then((tuning) => (this.tuning = tuning)));
    });
  }

  /** What the advice says, as eighths for each rod. */
  advised(): number[] {
    const { next, lugs } = this.tuning ?? {};
    const eighths = Array.from({ length: lugs ?? 0 }, () => 0);
    for (const turn of next?.turns ?? []) eighths[turn.lug] = turn.eighths;
    return eighths;
  }

  async removeRound(id: number): Promise<void> {
    await server.attempt(async () => {
      await api.removeRound(id);
      notices.add('The round is removed.', () => api.bringBackRound(id).then(() => this.load()));
      await this.load();
    });
  }

  /** Opens the seating guide. When it was gone through, it is known how far each rod is turned. */
  async seat(task: SeatingTask): Promise<void> {
    const { tuning } = this;
    if (!tuning) return;
    const { drum, side } = tuning;
    await server.attempt(async () => {
      const steps = await api.seating(drum.id, side, task);
      guide.begin(SEATING[task], steps, () => void server.attempt(() => api.seated(drum.id, side)).then(() => this.load()));
    });
  }

  /** Says that another head was put on. */
  async putOnHead(head: Head): Promise<boolean> {
    const { tuning } = this;
    if (!tuning) return false;
    const change = await api.putOnHead(tuning.drum.id, tuning.side, head);
    notices.add('Another head: its history begins here. Takes of the old one stay in the list.', async () => {
      await api.takeHeadBack(change.id);
      await workbench.refresh();
    });
    await workbench.refresh();
    return true;
  }

  /** What comes next; also what a pedal's forward does. */
  get step(): Step | undefined {
    const tuning = this.tuning;
    if (!tuning?.head) return undefined;
    // What was let down on purpose is not to be evened.
    if (tuning.uneven)
      return {
        words: 'Hear it on the bench',
        hint: 'Hit it there: what it did stands below, and the way back.',
        run: () => (view.place = 'bench'),
      };
    const [round] = tuning.rounds;
    const tap = 'tap an inch inside the hoop at each lug that is lit.';
    const hint = tuning.other_head ? `Mute the ${tuning.other_head} with a cushion, then ${tap}` : `T${tap.slice(1)}`;
    if (!round) return { words: tuning.one_bolt ? 'Tap it' : 'Tap a round', hint, run: () => this.tap() };
    if (round.turned) return { words: 'Tap a round again', hint: 'To hear what the turns did, and learn from it.', run: () => this.tap() };
    if (round.pitches.lugs.length < round.lugs && !tuning.next) {
      return { words: 'Go on tapping', hint, run: () => this.tap() };
    }
    if (tuning.next && !tuning.next.done && tuning.next.turns.length > 0) {
      return {
        words: 'Turned as told',
        hint: tuning.one_bolt ? 'By half turns; stop where it gets hard.' : 'In the order below, crosswise.',
        run: () => void this.turned(this.advised()),
      };
    }
    return { words: 'Tap a round again', hint: 'Tap again after an evening of playing: heads settle.', run: () => this.tap() };
  }
}

export const tune = new Tune();
