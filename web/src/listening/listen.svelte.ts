// A listening session as the page sees it.
import { listenAddress } from '../api/client';
import type { Dynamic, ListenEvent, StrikeView } from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { notices } from '../shell/notices.svelte';
import { workbench } from '../bench/workbench.svelte';
import { announce } from './announce';
import { type Hearing, Live } from './live';
import { BACK, FORWARD } from '../shell/pedal';

export type { Hearing } from './live';

const heardAs = (strike: StrikeView) => (strike.quality.known ? 'Good strike' : 'Heard, but it is not clear how long it sounds');

/** Good strikes that are wanted: of a drum, or of each dynamic of one. */
export const STRIKES = 5;
const STRIKES_EACH = 3;
/** How long a drum is announced before it is listened to, ms. */
const ANNOUNCED_MS = 1800;
/** Nothing at all, dBFS. */
const SILENT = -120;

/**
 * announced: the next drum of the kit is called; opening: the microphone is asked for; listening; ending: the last strike is worked on; busy: another window listens;
 * failed: `problem` says why.
 */
export type Stage = 'off' | 'announced' | 'opening' | 'listening' | 'ending' | 'busy' | 'failed';

/** A walk through the kit, drum by drum. */
interface Walk {
  drums: { id: number; name: string }[];
  at: number;
  /** Drums that were heard in full. */
  heard: number;
}

const HEARING = 'hearing';

function remembered(): Hearing {
  try {
    return sessionStorage.getItem(HEARING) === 'simulated' ? 'simulated' : 'microphone';
  } catch {
    return 'microphone';
  }
}

class Listening {
  stage = $state<Stage>('off');
  #hearing = $state<Hearing>(remembered());
  levelDbfs = $state(SILENT);
  /** Loudest level of the strike that was heard last, dBFS. */
  strikeDbfs = $state(SILENT);
  ringing = $state(false);
  good = $state(0);
  rejected = $state(0);
  last = $state.raw<StrikeView>();
  problem = $state('');
  warnings = $state.raw<string[]>([]);
  /** Whether soft, medium and hard strikes are asked for. */
  dynamics = $state(false);
  /** Whether a short sound announces each drum of a walk. */
  sound = $state(true);
  /** How hard the next strike is asked for. */
  asked = $state<Dynamic>();
  /** The drum that the last strike sounds like, if that is another one. */
  soundsLike = $state<string>();
  walk = $state.raw<Walk>();

  #live: Live | undefined;
  #drum = 0;

  end() {
    this.stop();
  }

  /** Sticks in hand: any pedal ends it. Of a walk through the kit one drum can be left out. */
  key(key: string): boolean {
    if (key === 'Escape' || FORWARD.includes(key) || BACK.includes(key)) this.stop();
    else if (key.toLowerCase() === 's' && this.walk) this.skip();
    else return false;
    return true;
  }

  get open(): boolean {
    return this.stage !== 'off';
  }

  /** Where strikes come from; kept until the window is closed. */
  get hearing(): Hearing {
    return this.#hearing;
  }

  set hearing(hearing: Hearing) {
    this.#hearing = hearing;
    try {
      sessionStorage.setItem(HEARING, hearing);
    } catch {
      // Where nothing may be kept, it is chosen again after a reload.
    }
  }

  /** Good strikes wanted now. */
  get each(): number {
    return this.dynamics ? STRIKES_EACH : STRIKES;
  }

  /** Begins on one drum; from a click or a key. */
  begin(drum: number, hearing: Hearing) {
    this.walk = undefined;
    this.#begin(drum, hearing);
  }

  /** Walks through the whole kit; from a click or a key. */
  beginKit(hearing: Hearing) {
    // What is left as it is needs no listening.
    const heard = (drumKit.kit?.drums ?? []).filter(({ drum, standing }) => standing !== 'in_case' && !drum.plays_along);
    const drums = heard.map(({ drum }) => ({ id: drum.id, name: drum.name }));
    if (drums.length === 0) return;
    this.hearing = hearing;
    this.walk = { drums, at: 0, heard: 0 };
    void this.#call();
  }

  /** Leaves out the drum that is asked for and goes on with the next one of the walk. */
  skip() {
    if (!this.walk) return;
    this.#letGo();
    this.#onward(this.walk.heard);
  }

  /** Calls the drum that the walk is at, then listens to it. */
  async #call() {
    const walk = this.walk;
    const drum = walk?.drums[walk.at];
    if (!walk || !drum) return;
    this.stage = 'announced';
    this.last = undefined;
    notices.said = `Now the ${drum.name}.`;
    void workbench.choose(drum.id);
    const called = Promise.all([this.sound ? announce() : undefined, new Promise((over) => setTimeout(over, ANNOUNCED_MS))]);
    await called;
    // Stopped or gone on in the meantime.
    if (this.walk === walk && this.stage === 'announced') this.#begin(drum.id, this.hearing);
  }

  #onward(heard: number) {
    const walk = this.walk;
    if (!walk) return;
    if (walk.at + 1 < walk.drums.length) {
      this.walk = { ...walk, at: walk.at + 1, heard };
      void this.#call();
      return;
    }
    this.walk = undefined;
    this.stage = 'off';
    notices.add(`The whole kit: ${heard} of ${walk.drums.length} drums heard.`);
    void workbench.choose(walk.drums[0]?.id);
  }

  #begin(drum: number, hearing: Hearing, takeOver = false) {
    this.#letGo();
    this.#drum = drum;
    Object.assign(this, {
      hearing,
      stage: 'opening',
      levelDbfs: SILENT,
      strikeDbfs: SILENT,
      ringing: false,
      good: 0,
      rejected: 0,
      problem: '',
      warnings: [],
      soundsLike: undefined,
      asked: this.dynamics ? 'soft' : undefined,
    });
    this.last = undefined;
    const options = { source: hearing, strikes: String(this.each), dynamics: String(this.dynamics), take_over: String(takeOver) };
    this.#live = Live.begin(hearing, {
      address: (rate) => listenAddress(drum, rate === undefined ? options : { ...options, sample_rate: String(rate) }),
      event: (event) => this.#told(event),
      warned: (warnings) => (this.warnings = warnings),
      failed: (why) => this.#fail(why),
    });
  }

  takeOver() {
    this.#begin(this.#drum, this.hearing, true);
  }

  again() {
    this.#begin(this.#drum, this.hearing);
  }

  /** Ends listening; a strike that still rings is measured as far as it was heard. */
  stop() {
    if (this.stage === 'listening') {
      this.stage = 'ending';
      this.#live?.stop();
    } else if (this.stage !== 'ending') {
      this.close();
    }
  }

  close() {
    if (this.walk && this.walk.heard > 0)
      notices.add(`Stopped: ${this.walk.heard} of ${this.walk.drums.length} drums heard. What was heard is kept.`);
    this.walk = undefined;
    const heard = this.good + this.rejected > 0;
    this.#letGo();
    this.stage = 'off';
    if (heard) void workbench.refresh();
  }

  #told(event: ListenEvent) {
    switch (event.event) {
      case 'ready':
        this.stage = 'listening';
        break;
      case 'level':
        this.levelDbfs = event.level_dbfs;
        if (event.ringing) this.strikeDbfs = this.ringing ? Math.max(this.strikeDbfs, event.level_dbfs) : event.level_dbfs;
        this.ringing = event.ringing;
        break;
      case 'strike':
        this.last = event.strike;
        this.good = event.good;
        this.rejected = event.rejected;
        this.asked = event.asked ?? undefined;
        this.soundsLike = event.sounds_like ?? undefined;
        notices.said = event.strike.advice[0] ?? `${heardAs(event.strike)}, ${event.good} of ${this.each}.`;
        break;
      case 'done':
        this.#ended(event.complete);
        break;
      case 'problem':
        this.#fail(event.detail);
        if (event.problem === 'busy') this.stage = 'busy';
        break;
    }
  }

  #ended(complete: boolean) {
    const { good, rejected } = this;
    this.#letGo();
    if (this.walk && complete) return this.#onward(this.walk.heard + 1);
    const { walk } = this;
    this.walk = undefined;
    this.stage = 'off';
    if (walk) notices.add(`Stopped: ${walk.heard} of ${walk.drums.length} drums heard. What was heard is kept.`);
    else if (complete) notices.add(`Heard ${good} good strikes.`);
    else if (good > 0) notices.add(`Stopped after ${good} good strikes. They are kept.`);
    else if (rejected > 0) notices.add('No strike could be used. The list of takes says why.', undefined, 'problem');
    else notices.add('Stopped. Nothing was heard.');
    void workbench.refresh();
  }

  #fail(why: string) {
    if (this.stage === 'off') return;
    this.problem = why;
    this.#letGo();
    this.stage = 'failed';
    notices.said = why;
    void workbench.refresh();
  }

  #letGo() {
    this.#live?.close();
    this.#live = undefined;
  }
}

export const listening = new Listening();
