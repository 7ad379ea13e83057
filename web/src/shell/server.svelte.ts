// Whether the server answers, and what becomes of what it refuses.
import { api, Refusal, Unreachable } from '../api/client';
import { notices } from './notices.svelte';

const RETRY_MS = 2000;

/** What is told besides may be refused without a word; that the server is gone is not passed over. */
export function unlessRefused(error: unknown): undefined {
  if (!(error instanceof Refusal)) throw error;
}

class Server {
  reachable = $state(true);
  /** What is read anew once it answers again. */
  onReturn: () => Promise<void> = () => Promise.resolve();

  /** Does `work`; a refusal becomes a notice, silence from the server shows and is waited out. */
  async attempt(work: () => Promise<unknown>): Promise<boolean> {
    try {
      await work();
      this.reachable = true;
      return true;
    } catch (error) {
      if (error instanceof Unreachable) this.#wait();
      else notices.add(error instanceof Error ? error.message : String(error), undefined, 'problem');
      return false;
    }
  }

  #wait() {
    if (!this.reachable) return;
    this.reachable = false;
    const retry = async () => {
      try {
        await api.kit();
        this.reachable = true;
        await this.onReturn();
      } catch {
        setTimeout(() => void retry(), RETRY_MS);
      }
    };
    setTimeout(() => void retry(), RETRY_MS);
  }
}

export const server = new Server();
