// The stage view: one song or break at a time, moved on by a pedal. It remembers where the evening is and what is on each drum.
import type { SetupView } from '../api/types';
import { night } from './night.svelte';
import { notices } from '../shell/notices.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { view } from '../shell/view.svelte';
import { called } from './say';
import { differing, type Change, type Step, stepsOf, withMoves } from './steps';
import { BACK, FORWARD } from '../shell/pedal';

const KEPT = 'soft-ember-stage';

/** What is kept of an evening, so that neither a reload nor leaving the view loses the place. */
interface Kept {
  setList: number;
  open: boolean;
  at: number;
  /** What lies on each drum, by its number: devices with amount and place. */
  on: Record<string, string[]>;
}

function read(): Kept | undefined {
  try {
    return (JSON.parse(localStorage.getItem(KEPT) ?? 'null') as Kept | null) ?? undefined;
  } catch {
    return undefined;
  }
}

class Stage {
  open = $state(false);
  /** Which step, from 0; one past the last is the end of the evening. */
  at = $state(0);
  /** What lies on each drum now, by its number. */
  on = $state.raw<Record<string, string[]>>({});
  /** What lay on them when this step began. */
  #entered = $state.raw<Record<string, string[]>>({});
  /** The same as is kept in the browser, for one that keeps nothing. */
  #kept: Kept | undefined;

  get steps(): Step[] {
    return night.plan && night.evening ? stepsOf(night.evening.songs) : [];
  }

  get step(): Step | undefined {
    return this.steps[this.at];
  }

  /** How each drum is to be for the song that is on or comes next. One that is out may be changed in the meantime. */
  get wanted(): { drum_id: number; name: string; out: boolean; setup: SetupView | undefined }[] {
    const song = this.step?.song ?? this.steps.at(-1)?.song;
    if (song === undefined) return [];
    const cells = night.plan?.rows[song]?.cells ?? [];
    return (night.evening?.drums ?? []).map(({ drum_id, name, setups }, index) => ({
      drum_id,
      name,
      out: cells[index]?.out ?? false,
      setup: setups[cells[index]?.setup ?? -1],
    }));
  }

  /** What is to be done in this step, from what was on when it began, however one got there. */
  get changes(): Change[] {
    return this.wanted.flatMap(({ drum_id, name, out, setup }) => {
      const difference = differing(this.#entered[drum_id] ?? [], setup?.devices ?? []);
      const done = !differing(this.on[drum_id] ?? [], setup?.devices ?? []);
      return difference && setup ? [{ drum_id, name, out, setup, done, ...withMoves(difference, this.#things(drum_id)) }] : [];
    });
  }

  /** Whether the step began with what the plan has on before it: only then its times hold. */
  get asPlanned(): boolean {
    const { step } = this;
    const before = step && step.song > 0 ? (night.plan?.rows[step.song - 1]?.cells ?? []) : [];
    return (night.evening?.drums ?? []).every(
      ({ drum_id, setups }, index) => !differing(this.#entered[drum_id] ?? [], setups[before[index]?.setup ?? -1]?.devices ?? []),
    );
  }

  #things(drum: number) {
    const setups = night.evening?.drums.find(({ drum_id }) => drum_id === drum)?.setups ?? [];
    return new Map(
      setups.flatMap(({ devices, things }) => devices.map((device, at) => [device, things[at] ?? { what: device, place: '' }])),
    );
  }

  /** What lies on a drum now, in few words. */
  words(drum: number): string {
    const on = this.on[drum] ?? [];
    const setups = night.evening?.drums.find(({ drum_id }) => drum_id === drum)?.setups ?? [];
    const known = setups.find(({ devices }) => !differing(devices, on));
    return known ? called(known) : on.length > 0 ? on.join('; ') : 'open';
  }

  /** Opens at a song, or where it was left. */
  begin(song?: number) {
    if (this.steps.length === 0) {
      notices.add('There is no set list to step through yet. Choose or make one under Tonight.');
      return;
    }
    this.#recall();
    if (song !== undefined)
      this.at = Math.max(
        this.steps.findIndex((step) => step.song === song && !step.isBreak),
        0,
      );
    else if (this.at >= this.steps.length) this.restart();
    this.open = true;
    this.#keep();
  }

  /** Opens again after the page was loaded anew, where it was open. */
  async resume(): Promise<void> {
    const kept = read();
    if (!kept?.open || kept.setList !== drumKit.kit?.tonight.set_list_id) return;
    // Before the place Tonight comes up, which would ask for the evening too, and let only the later answer count.
    await night.load();
    view.place = 'tonight';
    if (this.steps.length > 0) this.begin();
  }

  /** From the top, with nothing on. */
  restart() {
    this.on = {};
    this.#to(0);
  }

  /** The change on one drum is done; or it is not, after all. */
  tick({ drum_id, setup, done }: Change) {
    this.on = { ...this.on, [drum_id]: done ? (this.#entered[drum_id] ?? []) : setup.devices };
    this.#keep();
  }

  /** Goes on: what was to be done is done, unless said otherwise. */
  next(done = true) {
    if (this.at >= this.steps.length) return;
    if (done) this.on = Object.fromEntries(this.wanted.map(({ drum_id, setup }) => [drum_id, setup?.devices ?? []]));
    this.#to(this.at + 1);
  }

  back() {
    this.#to(Math.max(this.at - 1, 0));
  }

  end() {
    this.close();
  }

  /** A pedal moves on to the next song, and back; X says that what was to be done is not. */
  key(key: string): boolean {
    if (key === 'ArrowDown' || FORWARD.includes(key)) this.next();
    else if (key === 'ArrowUp' || BACK.includes(key)) this.back();
    else if (key === 'x' && this.changes.some((change) => !change.done)) this.next(false);
    else if (key === 'Escape') this.close();
    else return false;
    return true;
  }

  close() {
    this.open = false;
    this.#keep();
  }

  #to(step: number) {
    this.at = step;
    this.#entered = this.on;
    this.#keep();
    const { songs } = night.evening ?? { songs: [] };
    const played = this.steps[step - 1];
    // Of a break the song before it was played.
    const last = played && songs[played.isBreak ? played.song - 1 : played.song];
    void night.playedUpTo(last ? last.entry + 1 : 0);
  }

  #recall() {
    const kept = this.#kept ?? read();
    if (kept?.setList !== night.evening?.set_list_id) {
      this.at = 0;
      this.on = {};
    } else if (kept) {
      this.at = Math.min(kept.at, this.steps.length);
      this.on = kept.on;
    }
    this.#entered = this.on;
  }

  #keep() {
    const setList = night.evening?.set_list_id;
    if (setList === undefined) return;
    this.#kept = { setList, open: this.open, at: this.at, on: this.on };
    try {
      localStorage.setItem(KEPT, JSON.stringify(this.#kept));
    } catch {
      // Without room in the browser the place is remembered until the page is closed.
    }
  }
}

export const stage = new Stage();
