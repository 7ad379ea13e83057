// A guide for both hands: where it is, a step, and in steps that go round the hoop a lug.
import type { GuideStep } from '../api/types';
import { BACK, FORWARD } from '../shell/pedal';

class Guide {
  at = $state(0);
  lug = $state(0);
  title = $state('');
  steps = $state.raw<GuideStep[]>([]);
  /** What there is to do once every step was gone through. */
  #done: (() => void) | undefined;

  end() {
    this.close();
  }

  /** A pedal moves on to the next step, and back. */
  key(key: string): boolean {
    if (key === 'Escape') this.close();
    else if (FORWARD.includes(key)) void this.forward();
    else if (BACK.includes(key)) this.back();
    else return false;
    return true;
  }

  get open(): boolean {
    return this.steps.length > 0;
  }

  get last(): boolean {
    return this.at === this.steps.length - 1 && this.lug >= this.#lugs(this.at) - 1;
  }

  begin(title: string, steps: GuideStep[], done?: () => void) {
    this.title = title;
    this.steps = steps;
    this.#done = done;
    this.at = 0;
    this.lug = 0;
  }

  forward() {
    if (this.last) {
      const done = this.#done;
      this.close();
      done?.();
    } else if (this.lug + 1 < this.#lugs(this.at)) {
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
    this.steps = [];
    this.#done = undefined;
  }

  #lugs(step: number): number {
    return this.steps[step]?.lugs.length ?? 0;
  }
}

export const guide = new Guide();
