// A tempo tapped by hand.

/** A pause longer than this begins a new tempo, ms. */
const PAUSE = 2200;
/** Taps that count: older ones are forgotten, so that the tempo follows the hand. */
const TAPS = 8;
/** Fewer say nothing yet. */
const ENOUGH = 3;

export class TapTempo {
  #taps: number[] = [];

  /** How many taps the tempo rests on. */
  get count(): number {
    return this.#taps.length;
  }

  /** One more tap at a time in ms; the tempo that the taps make, whole beats a minute, once there are enough of them. */
  tap(now: number): number | undefined {
    const last = this.#taps.at(-1);
    if (last !== undefined && now - last > PAUSE) this.clear();
    this.#taps = [...this.#taps, now].slice(-TAPS);
    const [first] = this.#taps;
    if (first === undefined || this.count < ENOUGH) return undefined;
    return Math.round((60_000 * (this.count - 1)) / (now - first));
  }

  clear() {
    this.#taps = [];
  }
}
