// The stage view: one song at a time, moved on by a pedal.
import { night } from './night.svelte';
import { app } from '../shell/app.svelte';

class Stage {
  open = $state(false);
  /** Which song, from 0; one past the last is the end of the evening. */
  at = $state(0);

  get count(): number {
    return night.plan ? (night.evening?.songs.length ?? 0) : 0;
  }

  begin(at = 0) {
    if (this.count === 0) {
      app.notice('There is no set list to step through yet. Choose or make one under Tonight.');
      return;
    }
    this.at = Math.min(at, this.count - 1);
    this.open = true;
  }

  step(by: number) {
    this.at = Math.min(Math.max(this.at + by, 0), this.count);
  }

  close() {
    this.open = false;
  }
}

export const stage = new Stage();
