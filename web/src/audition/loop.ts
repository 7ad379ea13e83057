// Sounds laid into a loop that goes on without a seam: what sounds on past the end comes in again at the beginning.
import type { GrooveHit } from '../api/types';

/** A sound with where it is struck. `lead` is the time before its hit, s. */
export interface Part {
  samples: Float32Array;
  hits: GrooveHit[];
  lead: number;
}

/** `parts` mixed into `seconds` of sound at `rate`. */
export function looped(parts: Part[], seconds: number, rate: number): Float32Array<ArrayBuffer> {
  const length = Math.max(1, Math.round(seconds * rate));
  const loop = new Float32Array(length);
  for (const { samples, hits, lead } of parts) {
    for (const { at_s, level_db } of hits) {
      const gain = 10 ** (level_db / 20);
      const start = Math.round((at_s - lead) * rate);
      for (let i = 0; i < samples.length; i++) {
        const at = (((start + i) % length) + length) % length;
        loop[at] = (loop[at] ?? 0) + gain * (samples[i] ?? 0);
      }
    }
  }
  return loop;
}

/** The largest sample of all loops together, so that one gain suits them all. */
export function loudest(loops: Float32Array[]): number {
  let most = 0;
  for (const loop of loops) for (const x of loop) most = Math.max(most, Math.abs(x));
  return most;
}
