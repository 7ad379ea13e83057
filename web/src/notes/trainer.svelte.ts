// Note lengths in training: each note as it ends, held against the written one.
import { notesAddress } from '../api/client';
import type { ListenEvent, NoteValue } from '../api/types';
import { type Hearing, Live } from '../listening/live';
import { drumKit } from '../kit/drumKit.svelte';
import { notices } from '../shell/notices.svelte';

type Played = Extract<ListenEvent, { event: 'note_played' }>;
export type PlayedNote = Played['note'];

/** Tempos that are taken, quarter notes a minute. */
const LEAST_BPM = 30;
const MOST_BPM = 300;

export const TOO_SOFT = 'Too soft to tell where it ended. Strike harder, or bring the microphone nearer.';

class Trainer {
  value = $state<NoteValue>('half');
  /** Quarter notes a minute; tonight's tempo until another is written. */
  ownBpm = $state<number>();
  stage = $state<'closed' | 'opening' | 'open' | 'ending' | 'over' | 'busy' | 'failed'>('closed');
  levelDbfs = $state(-120);
  played = $state.raw<PlayedNote[]>([]);
  all = $state.raw<Played['all']>();
  problem = $state('');
  /** The last stroke was too soft to tell. */
  tooSoft = $state(false);
  warnings = $state.raw<string[]>([]);
  hearing = $state<Hearing>('microphone');

  #live: Live | undefined;
  #drum: number | undefined;

  end() {
    this.stop();
  }

  /** A pedal stops it, and once stopped goes back to the bench. */
  key(key: string): boolean {
    const stops = ['Escape', 'PageUp', 'PageDown'].includes(key);
    if (stops) this.stop();
    return stops;
  }

  get open(): boolean {
    return this.stage !== 'closed';
  }

  get bpm(): number {
    return this.ownBpm ?? drumKit.kit?.tonight.bpm ?? 120;
  }

  /** Whether such a tempo can be trained at. */
  get possible(): boolean {
    return this.bpm >= LEAST_BPM && this.bpm <= MOST_BPM;
  }

  begin(drum: number, hearing: Hearing, takeOver = false) {
    if (!this.possible) {
      notices.add(`A tempo lies between ${LEAST_BPM} and ${MOST_BPM} quarter notes a minute.`, undefined, 'problem');
      return;
    }
    this.#live?.close();
    this.#drum = drum;
    Object.assign(this, { stage: 'opening', levelDbfs: -120, problem: '', hearing, all: undefined, tooSoft: false });
    this.played = [];
    this.warnings = [];
    const sent = { source: hearing, value: this.value, bpm: String(this.bpm), take_over: String(takeOver) };
    this.#live = Live.begin(hearing, {
      address: (rate) => notesAddress(drum, rate === undefined ? sent : { ...sent, sample_rate: String(rate) }),
      event: (event) => this.#told(event),
      warned: (warnings) => (this.warnings = warnings),
      failed: (why) => this.#end('failed', why),
    });
  }

  again(takeOver = false) {
    if (this.#drum !== undefined) this.begin(this.#drum, this.hearing, takeOver);
  }

  /** Ends it; what was played stays to be looked at, and a second time the page is left. */
  stop() {
    if (this.stage === 'open') {
      this.stage = 'ending';
      this.#live?.stop();
    } else if (this.stage !== 'ending') this.close();
  }

  close() {
    this.#live?.close();
    this.#live = undefined;
    this.stage = 'closed';
  }

  #told(event: ListenEvent) {
    if (event.event === 'ready') this.stage = 'open';
    else if (event.event === 'level') this.levelDbfs = event.level_dbfs;
    else if (event.event === 'note_played') {
      this.played = [...this.played, event.note];
      this.all = event.all;
      this.tooSoft = false;
      notices.said = event.note.sentence;
    } else if (event.event === 'note_too_soft') {
      this.tooSoft = true;
      notices.said = TOO_SOFT;
    } else if (event.event === 'done') this.#end('over', '');
    else if (event.event === 'problem') this.#end(event.problem === 'busy' ? 'busy' : 'failed', event.detail);
  }

  #end(stage: 'over' | 'busy' | 'failed', why: string) {
    this.#live?.close();
    this.#live = undefined;
    Object.assign(this, { stage, problem: why });
  }
}

export const trainer = new Trainer();
