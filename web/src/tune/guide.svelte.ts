// Where the seating guide is: a step, and in steps that go round the hoop a lug.
import type { SeatingStep } from '../api/types';
import { tune } from './tune.svelte';

class Guide {
  at = $state(0);
  lug = $state(0);
  #steps = $state.raw<SeatingStep[]>([]);

  get last(): boolean {
    return this.at === this.#steps.length - 1 && this.lug >= this.#lugs(this.at) - 1;
  }

  begin(steps: SeatingStep[]) {
    this.#steps = steps;
    this.at = 0;
    this.lug = 0;
  }

  forward() {
    if (this.last) return this.close();
    if (this.lug + 1 < this.#lugs(this.at)) {
      this.lug += 1;
    } else {
      this.at += 1;
      this.lug = 0;
    }
  }

  back() {
    if (this.lug > 0) {
      this.lug -= 1;
    } else if (this.at > 0) {
      this.at -= 1;
      this.lug = Math.max(0, this.#lugs(this.at) - 1);
    }
  }

  close() {
    tune.seating = undefined;
  }

  #lugs(step: number): number {
    return this.#steps[step]?.lugs.length ?? 0;
  }
}

export const guide = new Guide();
