// Kinds of drums as the server knows them: read once, when the page begins.
import { api } from '../api/client';
import type { DrumKind, DrumKindInfo } from '../api/types';

class Kinds {
  all = $state.raw<DrumKindInfo[]>([]);

  async load(): Promise<void> {
    if (this.all.length === 0) this.all = await api.drumKinds();
  }

  of(kind: DrumKind): DrumKindInfo | undefined {
    return this.all.find((info) => info.kind === kind);
  }
}

export const kinds = new Kinds();

/** The word for a kind in a sentence. */
export const word = (kind: DrumKind) => kinds.of(kind)?.word ?? 'drum';

/** Whether it is a plate of metal. */
export const isMetal = (kind: DrumKind) => kinds.of(kind)?.is_metal ?? false;

/** Whether it has heads that are tuned and changed. */
export const hasHeads = (kind: DrumKind) => kinds.of(kind)?.has_heads ?? true;

/** Whether a drum stands or hangs with its head upright, the floor below. */
export const isUpright = (kind: DrumKind) => kinds.of(kind)?.is_upright ?? false;

/** Whether its note is ended by hand or knee, as long as it is written. */
export const isDampedByHand = (kind: DrumKind) => kinds.of(kind)?.is_damped_by_hand ?? false;

/** Whether a pedal strikes it. */
export const hasPedal = (kind: DrumKind) => kinds.of(kind)?.has_pedal ?? false;

/** The word for a drum's second head, as a title. */
export function otherHead(kind: DrumKind): string {
  const word = kinds.of(kind)?.lower_head_word ?? 'lower head';
  return word.charAt(0).toUpperCase() + word.slice(1);
}
