// How a large drum is struck: what other beaters and spots would bring, held against the blow with which it was measured.
import { api, Refusal } from '../api/client';
import type { Blow, BlowPage } from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { server } from '../shell/server.svelte';

const KEPT = 'ember-blows';
const UNPROCESSABLE = 422;

/** The blow with which each drum was measured, as far as the player said. */
function kept(): Partial<Record<string, Blow>> {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Partial<Record<string, Blow>>;
  } catch {
    // What was kept is no use; what is usual stands.
    return {};
  }
}

function keep(drum: number, blow: Blow | undefined) {
  localStorage.setItem(KEPT, JSON.stringify({ ...kept(), [drum]: blow }));
}

class Blows {
  page = $state.raw<BlowPage>();
  refused = $state('');

  #asked = 0;
  #of: number | undefined;

  /** Reads what is known of the drum on the bench. */
  async load(): Promise<void> {
    const drum = drumKit.drumId;
    if (drum === undefined) return;
    const asked = ++this.#asked;
    if (this.#of !== drum) this.page = undefined;
    this.#of = drum;
    await server.attempt(async () => {
      try {
        const from = kept()[drum] ?? null;
        const page = await api.blows(drum, { from });
        if (asked === this.#asked) [this.page, this.refused] = [page, ''];
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        if (asked !== this.#asked) return;
        // A blow that is not known any more is forgotten, on this drum alone.
        if (error.status === UNPROCESSABLE) keep(drum, undefined);
        [this.page, this.refused] = [undefined, error.message];
      }
    });
  }

  /** Says with which blow the drum was measured. */
  measuredWith(change: Partial<Blow>) {
    if (!this.page || drumKit.drumId === undefined) return;
    keep(drumKit.drumId, { ...this.page.from, ...change });
    void this.load();
  }
}

export const blows = new Blows();
