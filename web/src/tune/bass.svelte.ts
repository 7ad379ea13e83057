// Listening to a bass: its notes as they become clear.
import { bassAddress } from '../api/client';
import type { ListenEvent } from '../api/types';
import { type Hearing, Live } from '../listening/live';
import { notices } from '../shell/notices.svelte';

type HeardNote = Extract<ListenEvent, { event: 'bass_note' }>['heard'];

class Bass {
  listening = $state(false);
  levelDbfs = $state(-120);
  notes = $state.raw<HeardNote[]>([]);
  problem = $state('');

  #live: Live | undefined;

  /** Names of the notes heard, each once, low to high: as they are written. */
  get names(): string[] {
    const byPitch = this.notes.toSorted((a, b) => a.hz - b.hz);
    return [...new Set(byPitch.map(({ note }) => note.name))];
  }

  begin(hearing: Hearing, takeOver = false) {
    this.#live?.close();
    Object.assign(this, { listening: true, levelDbfs: -120, problem: '' });
    this.notes = [];
    const sent = { source: hearing, take_over: String(takeOver) };
    this.#live = Live.begin(hearing, {
      address: (rate) => bassAddress(rate === undefined ? sent : { ...sent, sample_rate: String(rate) }),
      event: (event) => this.#told(event),
      warned: () => {},
      failed: (why) => this.#end(why),
    });
  }

  stop() {
    this.#live?.stop();
  }

  /** Lets go at once: the page that shows the notes is left. */
  close() {
    if (this.listening) this.#end('');
  }

  #told(event: ListenEvent) {
    if (event.event === 'level') this.levelDbfs = event.level_dbfs;
    else if (event.event === 'bass_note') {
      this.notes = [...this.notes, event.heard];
      notices.said = event.heard.note.name;
    } else if (event.event === 'done')
      this.#end(this.notes.length === 0 ? 'No clear note was heard. Play single low notes, one at a time.' : '');
    else if (event.event === 'problem') this.#end(event.detail);
  }

  #end(why: string) {
    this.#live?.close();
    this.#live = undefined;
    this.listening = false;
    this.problem = why;
  }
}

export const bass = new Bass();
