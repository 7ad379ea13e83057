// What lies over the view, the topmost first. Each brings its own keys and its own way to end; nothing beneath hears a key meanwhile.
import { listening } from '../listening/listen.svelte';
import { trainer } from '../notes/trainer.svelte';
import { stage } from '../tonight/stage.svelte';
import { guide } from '../tune/guide.svelte';
import { tapping } from '../tune/tapping.svelte';

export interface Layer {
  readonly open: boolean;
  /** Ends it, as Back and Escape do. */
  end: () => void;
  /** What a key does while it is open; whether it did anything. */
  key: (key: string) => boolean;
}

const ALL: readonly Layer[] = [listening, trainer, tapping, guide, stage];

/** The topmost of those that are open; none where the view itself is seen. */
export const topLayer = (): Layer | undefined => ALL.find((layer) => layer.open);
