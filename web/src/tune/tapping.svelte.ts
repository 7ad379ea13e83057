// A round of taps as the page sees it while it is heard.
import { tapAddress } from '../api/client';
import type { HeadSide, KeptRound, ListenEvent, TapVerdict } from '../api/types';
import { type Hearing, Live } from '../listening/live';
import type { Stage } from '../listening/listen.svelte';
import { listening } from '../listening/listen.svelte';
import { notices } from '../shell/notices.svelte';
import { BACK, FORWARD } from '../shell/pedal';

const SILENT = -120;

interface Asked {
  drum: number;
  side: HeadSide;
  options: { again_lug?: number; anew?: boolean };
}

class Tapping {
  stage = $state<Stage>('off');
  round = $state.raw<KeptRound>();
  askedLug = $state<number>();
  verdict = $state.raw<TapVerdict>();
  /** Counts verdicts, so that two alike ones are still two. */
  answers = $state(0);
  levelDbfs = $state(SILENT);
  ringing = $state(false);
  problem = $state('');
  warnings = $state.raw<string[]>([]);

  /** What is done when tapping has ended: whoever shows the head reads it anew. */
  after: () => void = () => {};

  #live: Live | undefined;
  #asked: Asked | undefined;

  end() {
    void this.stop();
  }

  /** A pedal moves on to the next lug, and back. */
  key(key: string): boolean {
    if (key === 'Escape') this.end();
    else if (FORWARD.includes(key)) this.move('next');
    else if (BACK.includes(key)) this.move('back');
    else return false;
    return true;
  }

  get open(): boolean {
    return this.stage !== 'off';
  }

  get hearing(): Hearing {
    return listening.hearing;
  }

  begin(drum: number, side: HeadSide, options: Asked['options'] = {}, takeOver = false) {
    this.#letGo();
    this.#asked = { drum, side, options };
    Object.assign(this, {
      stage: 'opening',
      askedLug: undefined,
      answers: 0,
      levelDbfs: SILENT,
      ringing: false,
      problem: '',
      warnings: [],
    });
    this.round = undefined;
    this.verdict = undefined;
    const sent: Record<string, string> = { side, source: this.hearing, take_over: String(takeOver) };
    if (options.again_lug !== undefined) sent.again_lug = String(options.again_lug);
    if (options.anew) sent.anew = 'true';
    this.#live = Live.begin(this.hearing, {
      address: (rate) => tapAddress(drum, rate === undefined ? sent : { ...sent, sample_rate: String(rate) }),
      event: (event) => this.#told(event),
      warned: (warnings) => (this.warnings = warnings),
      failed: (why) => this.#fail(why),
    });
  }

  takeOver() {
    if (this.#asked) this.begin(this.#asked.drum, this.#asked.side, this.#asked.options, true);
  }

  again() {
    // What was heard is kept: a round that was broken off is gone on with.
    if (this.#asked) this.begin(this.#asked.drum, this.#asked.side);
  }

  /** Begins a new round on the same head; what was heard stays in the old one. */
  anew() {
    if (this.#asked) this.begin(this.#asked.drum, this.#asked.side, { anew: true }, true);
  }

  /** Goes on to the next lug, or back to the last one. */
  move(way: 'next' | 'back') {
    this.#live?.say(way);
  }

  stop() {
    if (this.stage === 'listening') {
      this.stage = 'ending';
      this.#live?.stop();
    } else if (this.stage !== 'ending') {
      this.close();
    }
  }

  close() {
    this.#letGo();
    this.stage = 'off';
    this.after();
  }

  #told(event: ListenEvent) {
    switch (event.event) {
      case 'ready':
        this.stage = 'listening';
        break;
      case 'level':
        this.levelDbfs = event.level_dbfs;
        this.ringing = event.ringing;
        break;
      case 'tap':
        this.round = event.round;
        this.askedLug = event.asked_lug ?? undefined;
        if (event.tapped) {
          this.verdict = event.tapped;
          this.answers += 1;
          notices.said = event.tapped.sentence;
        }
        break;
      case 'done':
        this.close();
        // A head without pitches was heard all the same; its headline says what to do.
        if (!event.complete && !this.round?.pitches.too_uneven)
          notices.add(`Stopped. ${event.good === 0 ? 'No lug was heard.' : 'What was heard is kept: go on when you like.'}`);
        break;
      case 'problem':
        this.#fail(event.detail);
        if (event.problem === 'busy') this.stage = 'busy';
        break;
    }
  }

  #fail(why: string) {
    if (this.stage === 'off') return;
    this.problem = why;
    this.#letGo();
    this.stage = 'failed';
    notices.said = why;
    this.after();
  }

  #letGo() {
    this.#live?.close();
    this.#live = undefined;
  }
}

export const tapping = new Tapping();
