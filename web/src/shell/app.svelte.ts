// What the page knows and does. One instance; screens read its fields and call its actions.
import { api, Refusal, Unreachable } from '../api/client';
import type {
  DeviceKind,
  Bench,
  DataStatus,
  DrumState,
  Elsewhere,
  Genre,
  KeptDrum,
  Kit,
  Opinion,
  OwnWishAsked,
  Plans,
  PlanView,
  ShelfDevice,
  Struck,
  TakeView,
  Tonight,
} from '../api/types';
import { kinds } from '../kit/kinds.svelte';
import { counted } from './figures';

/** A message at the foot of the page, perhaps with a way back. */
export interface Notice {
  id: number;
  tone: 'plain' | 'problem';
  text: string;
  undo?: (() => Promise<unknown>) | undefined;
}

export type Place = 'tonight' | 'tune' | 'bench' | 'front' | 'shelf';

const NOTICE_MS = 9000;
/** A problem stays longer, but not over everything that is done after it. */
const PROBLEM_MS = 45_000;
const RETRY_MS = 2000;
const WATCH_MS = 5000;
/** So many looks at the server bring one at its data. */
const LOOKS_TO_DATA = 12;

/** What is told besides may be refused without a word; that the server is gone is not passed over. */
export function unlessRefused(error: unknown): undefined {
  if (!(error instanceof Refusal)) throw error;
}

class App {
  place = $state<Place>('bench');
  /** Which of the first questions is asked, after a kit was chosen; none once they are answered or left for later. */
  beginning = $state<'shelf' | 'music'>();
  kit = $state.raw<Kit>();
  genres = $state.raw<Genre[]>([]);
  shelf = $state.raw<ShelfDevice[]>([]);
  /** How the data is kept. */
  data = $state.raw<DataStatus>();
  /** Codes of notes about it that were read. */
  putAwayNotes = $state.raw<string[]>([]);
  drumId = $state<number>();
  bench = $state.raw<Bench>();
  plans = $state.raw<Plans>();
  /** Why there are no plans. */
  plansRefused = $state<string>();
  planning = $state(false);
  /** A layout of the player's own that is being made: its trails are shown instead. */
  own = $state.raw<PlanView>();
  /** Index of the plan whose expected trails are shown. */
  planShown = $state(0);
  reachable = $state(true);
  notices = $state.raw<Notice[]>([]);
  /** What the screen reader is told. */
  said = $state('');

  #nextNotice = 1;
  #benchAsked = 0;
  #plansAsked = 0;

  get drum(): DrumState | undefined {
    return this.kit?.drums.find((state) => state.drum.id === this.drumId);
  }

  /** Whether one bolt pulls the whole hoop of a drum. */
  hasOneBolt(id: number): boolean {
    return this.kit?.drums.find((state) => state.drum.id === id)?.one_bolt ?? false;
  }

  /** What is to be said about the data. */
  get dataNotes(): DataStatus['notes'] {
    return this.data?.notes.filter((note) => !this.putAwayNotes.includes(note.code)) ?? [];
  }

  putAway(code: string) {
    this.putAwayNotes = [...this.putAwayNotes, code];
  }

  async readData(): Promise<void> {
    await this.attempt(async () => (this.data = await api.data()));
  }

  get plan(): PlanView | undefined {
    return this.own ?? this.plans?.plans[this.planShown];
  }

  /** Reads everything anew; also how the page begins. */
  async load(): Promise<void> {
    await this.attempt(async () => {
      const [kit, genres, shelf, data] = await Promise.all([api.kit(), api.genres(), api.shelf(), api.data(), kinds.load()]);
      this.data = data;
      this.kit = kit;
      this.genres = genres;
      this.shelf = shelf;
      const known = kit.drums.some((state) => state.drum.id === this.drumId);
      await this.choose(known ? this.drumId : kit.drums[0]?.drum.id);
    });
  }

  /** Goes to where one drum is looked at: stays where it is tuned or its other end is looked at, else to the bench. */
  atDrum() {
    this.beginning = undefined;
    if (this.place !== 'tune' && this.place !== 'front') this.place = 'bench';
  }

  /** Brings a drum onto the bench. */
  async choose(id: number | undefined): Promise<void> {
    if (id !== this.drumId) {
      this.bench = undefined;
      this.#forgetPlans();
      // What went wrong with one drum says nothing about another.
      this.notices = this.notices.filter((notice) => notice.tone !== 'problem');
    }
    this.drumId = id;
    if (id === undefined) this.bench = undefined;
    else await this.refresh();
  }

  /** Reads the bench and the kit again. Plans take longer: they are asked for, but not waited for. */
  async refresh(): Promise<void> {
    const id = this.drumId;
    const asked = ++this.#benchAsked;
    await this.attempt(async () => {
      const [kit, bench] = await Promise.all([api.kit(), id === undefined ? undefined : api.bench(id)]);
      // A later question was asked in the meantime: its answer counts.
      if (asked !== this.#benchAsked) return;
      this.kit = kit;
      this.bench = bench;
      void this.attempt(() => this.replan());
    });
  }

  /** Asks for plans where there is something to plan. */
  async replan(): Promise<void> {
    const bench = this.bench;
    const asked = ++this.#plansAsked;
    if (!bench?.open) return this.#forgetPlans();
    this.planning = true;
    try {
      const plans = await api.plans(bench.drum.id);
      if (asked !== this.#plansAsked) return;
      this.plans = plans;
      this.plansRefused = undefined;
      if (this.planShown >= plans.plans.length) this.planShown = 0;
    } catch (error) {
      if (asked !== this.#plansAsked) return;
      if (!(error instanceof Refusal)) throw error;
      this.plans = undefined;
      this.plansRefused = error.message;
    } finally {
      if (asked === this.#plansAsked) this.planning = false;
    }
  }

  #forgetPlans() {
    this.own = undefined;
    this.plans = undefined;
    this.plansRefused = undefined;
    this.planShown = 0;
    this.planning = false;
  }

  /** Changes tonight; everything is held against it at once. */
  async setTonight(change: Partial<Tonight>): Promise<void> {
    const kit = this.kit;
    if (!kit) return;
    const tonight = { ...kit.tonight, ...change };
    this.kit = { ...kit, tonight };
    await this.attempt(async () => {
      await api.setTonight(tonight);
      // What is ruled out is said of each thing on the shelf.
      [this.shelf] = await Promise.all([api.shelf(), this.refresh()]);
    });
  }

  /** Says how the player wants the drum to sound, whatever is played. */
  async wantDrum({ id, ...drum }: KeptDrum, asked: OwnWishAsked, said: string): Promise<void> {
    await this.attempt(async () => {
      await api.setOwnWish(id, asked);
      this.notice(said, () => api.changeDrum(id, drum));
      await this.refresh();
    });
  }

  /** Says that the plan shown is on the drum. */
  async putOn(plan: PlanView): Promise<void> {
    const drum = this.drumId;
    if (drum === undefined) return;
    await this.attempt(async () => {
      const before = this.bench?.treatment;
      const [first] = this.plans?.plans ?? [];
      const isAnother = first && first !== plan && this.plans?.plans.includes(plan);
      const treatment = await api.putOn(drum, plan);
      // Which of several is put on tells what is liked; it is on all the same where that cannot be kept.
      const told = isAnother
        ? await api
            .choose(drum, { deed: 'chose_plan', rather: plan.placements, than: first.placements, song_id: null })
            .catch(unlessRefused)
        : undefined;
      this.notice('Noted as done. Hit the drum again to check it.', async () => {
        if (told?.id != null) await api.takeOpinionBack(told.id);
        await api.changeTreatment(treatment.id, false);
        if (before) await api.changeTreatment(before.id, true);
      });
      await this.refresh();
    });
  }

  /** Says that the treatment was taken off. */
  async takeOff(id: number): Promise<void> {
    await this.attempt(async () => {
      await api.changeTreatment(id, false);
      this.notice('Taken off. The drum counts as open again.', () => api.changeTreatment(id, true));
      await this.refresh();
    });
  }

  /** Says whether a take that is in doubt counts. */
  async countTake(take: number, counted: boolean): Promise<void> {
    await this.attempt(async () => {
      await api.changeTake(take, counted);
      this.notice(counted ? 'The take counts.' : 'The take does not count.', () => api.changeTake(take, !counted));
      await this.refresh();
    });
  }

  /** Keeps strikes of a take on the drum that they were on. */
  async keepElsewhere(take: TakeView, { drum_id, name, strikes }: Elsewhere): Promise<void> {
    await this.attempt(async () => {
      const elsewhere = take.strikes.some((strike) => strikes.includes(strike.id) && strike.warnings.length > 0);
      // A take of which nothing is left is gone.
      const into = strikes.length < take.strikes.length ? take.id : null;
      await api.keepStrikes(drum_id, strikes);
      const back = () => api.keepStrikes(take.drum_id, strikes, { take: into, elsewhere });
      this.notice(`${counted(strikes.length, 'hit')} kept on your ${name}.`, back);
      await this.refresh();
    });
  }

  /** Says what there is too much of in a cymbal, or that it is left alone. */
  async setTooMuch({ id, ...drum }: KeptDrum, too_much: KeptDrum['too_much']): Promise<void> {
    await this.attempt(async () => {
      await api.changeDrum(id, { ...drum, too_much: too_much ?? null });
      const said = {
        wash: 'Too washy: now its wash is judged.',
        brightness: 'Too bright: now what is high in it is judged.',
        loudness: 'Too loud: what helps stands under Want.',
      };
      this.notice(too_much ? said[too_much] : `${drum.name} is left to sound as it does.`, () => api.changeDrum(id, drum));
      await this.refresh();
    });
  }

  /** Says where a cymbal is struck, or how far a hi-hat is open. */
  async setStruck({ id, ...drum }: KeptDrum, struck: Struck, words: string): Promise<void> {
    await this.attempt(async () => {
      await api.changeDrum(id, { ...drum, struck });
      this.notice(`${drum.name}, ${words}.`, () => api.changeDrum(id, drum));
      await this.refresh();
    });
  }

  /** Says what the drum sounds like to its player: the wish learns from it. */
  async say(drum: number, opinion: Opinion): Promise<void> {
    await this.attempt(async () => {
      const { id } = await api.sayOpinion(drum, opinion);
      const said = { like_it: 'You like it like this.', too_dead: 'Too dead for you.', too_ringy: 'Too ringy for you.' };
      this.notice(`${said[opinion]} What is wanted follows.`, () => api.takeOpinionBack(id));
      await this.refresh();
    });
  }

  /** Back to the genre's own lengths. */
  async forgetOpinions(drum: number): Promise<void> {
    await this.attempt(async () => {
      await api.forgetOpinions(drum);
      this.notice('Forgotten. The genre’s own lengths hold again.', () => api.recallOpinions(drum));
      await this.refresh();
    });
  }

  /** Leaves a strike out, or takes it back in. */
  async setDropped(strike: number, dropped: boolean): Promise<void> {
    await this.attempt(async () => {
      await api.changeStrike(strike, dropped);
      this.notice(dropped ? 'The strike is left out.' : 'The strike counts again.', () => api.changeStrike(strike, !dropped));
      await this.refresh();
    });
  }

  /** Reads the shelf again, and plans with what is on it now. */
  async readShelf(): Promise<void> {
    this.shelf = await api.shelf();
    await this.replan();
  }

  /** Takes a thing of the player's own off the shelf. */
  async removeOwn(item: ShelfDevice): Promise<void> {
    const made = item.made;
    if (!made) return;
    await this.attempt(async () => {
      await api.removeOwn(item.kind);
      this.notice(`“${made.name}” is off the shelf.`, async () => {
        await api.changeOwn(item.kind, { ...made, count: item.count });
        await this.readShelf();
      });
      await this.readShelf();
    });
  }

  async setShelf(device: DeviceKind, count: number): Promise<void> {
    const before = this.shelf.find((item) => item.kind === device)?.count ?? 0;
    this.shelf = this.shelf.map((item) => (item.kind === device ? { ...item, count } : item));
    await this.attempt(async () => {
      try {
        await api.setShelf(device, count);
      } catch (error) {
        this.shelf = this.shelf.map((item) => (item.kind === device ? { ...item, count: before } : item));
        throw error;
      }
      await this.replan();
    });
  }

  /** Does `work`; a refusal becomes a notice, silence from the server shows and is waited out. */
  async attempt(work: () => Promise<unknown>): Promise<boolean> {
    try {
      await work();
      this.reachable = true;
      return true;
    } catch (error) {
      if (error instanceof Unreachable) this.#waitForServer();
      else this.notice(error instanceof Error ? error.message : String(error), undefined, 'problem');
      return false;
    }
  }

  /** Looks every few seconds whether the server is still there: a page beside the kit is not touched for long. */
  watch(): () => void {
    let looks = 0;
    const look = () => {
      if (!this.reachable || !this.kit || document.hidden) return;
      looks += 1;
      void (looks % LOOKS_TO_DATA === 0 ? this.readData() : this.attempt(() => api.kit()));
    };
    const timer = setInterval(look, WATCH_MS);
    return () => clearInterval(timer);
  }

  #waitForServer() {
    if (!this.reachable) return;
    this.reachable = false;
    const retry = async () => {
      try {
        await api.kit();
        this.reachable = true;
        await this.load();
      } catch {
        setTimeout(() => void retry(), RETRY_MS);
      }
    };
    setTimeout(() => void retry(), RETRY_MS);
  }

  notice(text: string, undo?: () => Promise<unknown>, tone: Notice['tone'] = 'plain') {
    const notice = { id: this.#nextNotice++, tone, text, undo };
    // Of changes only the newest can be undone: older ones may no longer fit. What is merely said, late perhaps, takes nothing away.
    const before = undo ? this.notices.map((old) => ({ ...old, undo: undefined })) : this.notices;
    this.notices = [...before, notice].slice(-3);
    this.said = text;
    setTimeout(() => this.dismiss(notice.id), tone === 'plain' ? NOTICE_MS : PROBLEM_MS);
  }

  dismiss(id: number) {
    this.notices = this.notices.filter((notice) => notice.id !== id);
  }

  /** Takes the last change back. */
  async undo(): Promise<void> {
    const last = this.notices.findLast((notice) => notice.undo);
    if (!last?.undo) return;
    this.dismiss(last.id);
    await this.attempt(async () => {
      await last.undo?.();
      await this.refresh();
      this.notice('Undone.');
    });
  }
}

export const app = new App();
