// Drummers' words for how a drum sounds, as the server knows them: read once.
import { api } from '../api/client';
import type { CharacterInfo } from '../api/types';
import { server } from '../shell/server.svelte';

class Characters {
  all = $state.raw<CharacterInfo[]>([]);

  async load(): Promise<void> {
    if (this.all.length > 0) return;
    await server.attempt(async () => (this.all = await api.characters()));
  }
}

export const characters = new Characters();
