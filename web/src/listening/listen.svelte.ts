// A listening session as the page sees it.
import { listenAddress } from '../api/client';
import type { ListenEvent, StrikeView } from '../api/types';
import { app } from '../shell/app.svelte';
import { type Hearing, Live } from './live';

export type { Hearing } from './live';

/** Good strikes that are wanted. */
export const STRIKES = 5;
/** Nothing at all, dBFS. */
const SILENT = -120;

/**
 * opening: the microphone is asked for; listening; ending: the last strike is worked on; busy: another window listens;
 * failed: `problem` says why.
 */
export type Stage = 'off' | 'opening' | 'listening' | 'ending' | 'busy' | 'failed';

class Listening {
  stage = $state<Stage>('off');
  hearing = $state<Hearing>('microphone');
  levelDbfs = $state(SILENT);
  /** Loudest level of the strike that was heard last, dBFS. */
  strikeDbfs = $state(SILENT);
  ringing = $state(false);
  good = $state(0);
  rejected = $state(0);
  last = $state.raw<StrikeView>();
  problem = $state('');
  warnings = $state.raw<string[]>([]);

  #live: Live | undefined;
  #drum = 0;

  get open(): boolean {
    return this.stage !== 'off';
  }

  /** Begins; from a click or a key. */
  begin(drum: number, hearing: Hearing, takeOver = false) {
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
    });
    this.last = undefined;
    const options = { source: hearing, strikes: String(STRIKES), take_over: String(takeOver) };
    this.#live = Live.begin(hearing, {
      address: (rate) => listenAddress(drum, rate === undefined ? options : { ...options, sample_rate: String(rate) }),
      event: (event) => this.#told(event),
      warned: (warnings) => (this.warnings = warnings),
      failed: (why) => this.#fail(why),
    });
  }

  takeOver() {
    this.begin(this.#drum, this.hearing, true);
  }

  again() {
    this.begin(this.#drum, this.hearing);
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
    const heard = this.good + this.rejected > 0;
    this.#letGo();
    this.stage = 'off';
    if (heard) void app.refresh();
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
        app.said = event.strike.advice[0] ?? `Good strike, ${event.good} of ${STRIKES}.`;
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
    this.stage = 'off';
    if (complete) app.notice(`Heard ${good} good strikes.`);
    else if (good > 0) app.notice(`Stopped after ${good} of ${STRIKES} good strikes. They are kept.`);
    else if (rejected > 0) app.notice('No strike could be used. The list of takes says why.', undefined, 'problem');
    else app.notice('Stopped. Nothing was heard.');
    void app.refresh();
  }

  #fail(why: string) {
    if (this.stage === 'off') return;
    this.problem = why;
    this.#letGo();
    this.stage = 'failed';
    app.said = why;
    void app.refresh();
  }

  #letGo() {
    this.#live?.close();
    this.#live = undefined;
  }
}

export const listening = new Listening();
