// What is played tonight, and the genres to choose from. Everything is held against it.
import { api } from '../api/client';
import type { Genre, Tonight } from '../api/types';
import { workbench } from '../bench/workbench.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { deviceShelf } from '../shelf/deviceShelf.svelte';
import { server } from '../shell/server.svelte';

class PlayedTonight {
  genres = $state.raw<Genre[]>([]);

  /** Changes tonight; everything is held against it at once. */
  async set(change: Partial<Tonight>): Promise<void> {
    const kit = drumKit.kit;
    if (!kit) return;
    const tonight = { ...kit.tonight, ...change };
    drumKit.kit = { ...kit, tonight };
    await server.attempt(async () => {
      await api.setTonight(tonight);
      // What is ruled out is said of each thing on the shelf.
      [deviceShelf.devices] = await Promise.all([api.shelf(), workbench.refresh()]);
    });
  }
}

export const playedTonight = new PlayedTonight();
