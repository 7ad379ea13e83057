// How the data is kept, and what is to be said about it.
import { api } from '../api/client';
import type { DataStatus } from '../api/types';
import { server } from './server.svelte';

class Status {
  status = $state.raw<DataStatus>();
  /** Codes of notes that were read. */
  #away = $state.raw<string[]>([]);

  /** What is to be said about the data. */
  get notes(): DataStatus['notes'] {
    return this.status?.notes.filter((note) => !this.#away.includes(note.code)) ?? [];
  }

  putAway(code: string) {
    this.#away = [...this.#away, code];
  }

  async read(): Promise<void> {
    await server.attempt(async () => (this.status = await api.data()));
  }
}

export const dataStatus = new Status();
