// A listening session as the page sees it.
import { listenAddress } from '../api/client';
import type { ListenEvent, StrikeView } from '../api/types';
import { app } from '../shell/app.svelte';
import { type Microphone, NoMicrophone, openMicrophone } from './microphone';

export type Hearing = 'microphone' | 'simulated';

/** Good strikes that are wanted. */
export const STRIKES = 5;
/** Nothing at all, dBFS. */
const SILENT = -120;
/** The server answers within this, or is gone, ms. */
const ANSWER_MS = 5000;

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

  #socket: WebSocket | undefined;
  #microphone: Microphone | undefined;
  #drum = 0;
  #patience: ReturnType<typeof setTimeout> | undefined;

  get open(): boolean {
    return this.stage !== 'off';
  }

  /** Begins; from a click or a key. */
  async begin(drum: number, hearing: Hearing, takeOver = false): Promise<void> {
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
    if (hearing === 'simulated') return this.#connect({ source: hearing }, takeOver);
    try {
      const microphone = await openMicrophone(
        (start, samples) => this.#send(start, samples),
        (why) => this.#fail(`${why} What was heard is kept.`),
      );
      // Called off while the browser was asking.
      if (this.stage !== 'opening') return microphone.close();
      this.#microphone = microphone;
      this.warnings = microphone.warnings;
      this.#connect({ source: hearing, sample_rate: String(Math.round(microphone.rate)) }, takeOver);
    } catch (error) {
      this.#fail(error instanceof NoMicrophone ? error.message : `The microphone could not be opened: ${String(error)}`);
    }
  }

  takeOver() {
    void this.begin(this.#drum, this.hearing, true);
  }

  again() {
    void this.begin(this.#drum, this.hearing);
  }

  /** Ends listening; a strike that still rings is measured as far as it was heard. */
  stop() {
    if (this.stage === 'listening') {
      this.stage = 'ending';
      this.#socket?.send('stop');
      this.#patience = setTimeout(() => this.#fail('The server does not answer. What was told here is kept.'), ANSWER_MS);
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

  #connect(options: Record<string, string>, takeOver: boolean) {
    const socket = new WebSocket(listenAddress(this.#drum, { ...options, strikes: String(STRIKES), take_over: String(takeOver) }));
    socket.binaryType = 'arraybuffer';
    this.#socket = socket;
    socket.onmessage = ({ data }: MessageEvent<string>) => this.#told(JSON.parse(data) as ListenEvent);
    socket.onclose = () => {
      if (this.#socket === socket && this.stage !== 'off' && this.stage !== 'failed' && this.stage !== 'busy') {
        this.#fail('The connection to Soft Ember broke off. What was told here is kept.');
      }
    };
  }

  #send(start: number, samples: Float32Array<ArrayBuffer>) {
    if (this.#socket?.readyState !== WebSocket.OPEN || this.stage !== 'listening') return;
    const message = new ArrayBuffer(8 + samples.byteLength);
    new DataView(message).setBigUint64(0, BigInt(start), true);
    new Uint8Array(message, 8).set(new Uint8Array(samples.buffer));
    this.#socket.send(message);
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
    clearTimeout(this.#patience);
    const socket = this.#socket;
    this.#socket = undefined;
    socket?.close();
    this.#microphone?.close();
    this.#microphone = undefined;
  }
}

export const listening = new Listening();
