// Hears a knock on the drum: a sudden loud sound after a while without one. Only a switch, nothing is measured.

/** A knock is at least this loud, full scale 1. */
const LOUD = 0.08;
/** It stands out from what sounded before by this factor. */
const OUT = 6;
/** Two knocks lie this far apart, ms: one step a knock, however long it rings. */
const APART_MS = 900;

export class TapSwitch {
  #knocked: () => void;
  #floor = 0.01;
  #last = -Infinity;

  constructor(knocked: () => void) {
    this.#knocked = knocked;
  }

  push(samples: Float32Array, nowMs: number) {
    let peak = 0;
    for (const sample of samples) peak = Math.max(peak, Math.abs(sample));
    if (peak > LOUD && peak > OUT * this.#floor && nowMs - this.#last > APART_MS) {
      this.#last = nowMs;
      this.#knocked();
    }
    this.#floor += 0.1 * (peak - this.#floor);
  }
}
