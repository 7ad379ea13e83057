// Tonight's tempo, typed or tapped.
import { playedTonight } from './playedTonight.svelte';
import { TapTempo } from './tapTempo';

/** A tempo that is set once the tapping has paused for so long, ms: everything is worked out anew with it, not at each tap. */
const SETTLES = 900;

class Tempo {
  readonly least = 30;
  readonly most = 300;
  /** Taps so far, of a tempo that is being tapped. */
  tapped = $state(0);
  refused = $state('');
  readonly #taps = new TapTempo();
  #later: ReturnType<typeof setTimeout> | undefined;

  set(bpm: number) {
    if (!Number.isFinite(bpm) || bpm < this.least || bpm > this.most) {
      this.refused = `A tempo lies between ${this.least} and ${this.most} BPM.`;
      return;
    }
    this.refused = '';
    void playedTonight.set({ bpm, song_id: null });
  }

  tap() {
    const bpm = this.#taps.tap(performance.now());
    this.tapped = this.#taps.count;
    if (bpm === undefined) return;
    clearTimeout(this.#later);
    this.#later = setTimeout(() => {
      this.set(bpm);
      this.#taps.clear();
      this.tapped = 0;
    }, SETTLES);
  }
}

export const tempo = new Tempo();
