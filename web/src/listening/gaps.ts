// Finds sound that the browser lost: samples that come later and later behind the clock.

/** Lateness that counts as lost sound, ms. */
const LOST_MS = 20;
/** Pieces over which the least lateness is taken; single late ones are only late. */
const PIECES = 24;

export class Gaps {
  #frames = 0;
  #recent: number[] = [];
  #usual: number | undefined;

  constructor(private readonly rate: number) {}

  /** Takes note of `frames` samples that arrived at `at` (ms). Returns how many were lost before them. */
  arrived(frames: number, at: number): number {
    this.#frames += frames;
    this.#recent.push(at - (1000 * this.#frames) / this.rate);
    if (this.#recent.length < PIECES) return 0;
    if (this.#recent.length > PIECES) this.#recent.shift();
    const least = Math.min(...this.#recent);
    const late = least - (this.#usual ?? least);
    if (late > LOST_MS) {
      const lost = Math.round((late / 1000) * this.rate);
      this.#frames += lost;
      this.#recent = this.#recent.map((value) => value - late);
      return lost;
    }
    // Two clocks never run quite alike: follow their drift.
    this.#usual = this.#usual === undefined ? least : this.#usual + 0.05 * (least - this.#usual);
    return 0;
  }
}
