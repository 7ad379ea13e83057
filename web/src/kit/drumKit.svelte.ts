// Tonight's drums, and which of them is looked at.
import type { DrumState, Kit } from '../api/types';

class DrumKit {
  kit = $state.raw<Kit>();
  drumId = $state<number>();

  get drum(): DrumState | undefined {
    return this.#of(this.drumId);
  }

  /** Whether one bolt pulls the whole hoop of a drum. */
  hasOneBolt(id: number): boolean {
    return this.#of(id)?.one_bolt ?? false;
  }

  #of(id: number | undefined): DrumState | undefined {
    return this.kit?.drums.find((state) => state.drum.id === id);
  }
}

export const drumKit = new DrumKit();
