// All takes of a drum measured again from their kept sound, one after the other: what changes, and whether to keep it.
import { api, Refusal } from '../api/client';
import type { MeasuredAgain, TakeRow } from '../api/types';

/** One take that was measured again; `refused` says why it could not be. */
export interface Again {
  row: TakeRow;
  found?: MeasuredAgain;
  refused?: string;
}

export class AllAgain {
  /** How many are done, of how many; nothing before it begins. */
  done = $state(0);
  total = $state(0);
  running = $state(false);
  results = $state.raw<Again[]>([]);

  #stopped = false;

  /** Those whose figures change. */
  get changed(): Again[] {
    return this.results.filter(({ found }) => found && changes(found));
  }

  get refused(): Again[] {
    return this.results.filter(({ refused }) => refused !== undefined);
  }

  /** Measures `rows` again; keeps nothing. */
  async measure(rows: TakeRow[]): Promise<void> {
    this.results = [];
    await this.#each(rows, async (row) => {
      const found = await api.measureAgain(row.id, false);
      this.results = [...this.results, { row, found }];
    });
  }

  /** Keeps what was found, where it changes. */
  async keep(): Promise<void> {
    const before = this.changed;
    await this.#each(
      before.map(({ row }) => row),
      async (row) => {
        await api.measureAgain(row.id, true);
        this.results = this.results.filter((result) => result.row.id !== row.id);
      },
    );
  }

  /** Goes no further than the take that is being measured. */
  stop(): void {
    this.#stopped = true;
  }

  forget(): void {
    this.results = [];
    this.total = 0;
  }

  async #each(rows: TakeRow[], work: (row: TakeRow) => Promise<void>): Promise<void> {
    [this.running, this.#stopped, this.done, this.total] = [true, false, 0, rows.length];
    try {
      for (const row of rows) {
        if (this.#stopped) return;
        try {
          await work(row);
        } catch (error) {
          // What one take's sound cannot give does not stop the others.
          if (!(error instanceof Refusal)) throw error;
          this.results = [...this.results.filter((result) => result.row.id !== row.id), { row, refused: error.message }];
        }
        this.done += 1;
      }
    } finally {
      this.running = false;
    }
  }
}

/** Whether anything is other than it was. */
export function changes(found: MeasuredAgain): boolean {
  return found.changed.length > 0 || found.strikes_used_before !== found.strikes_used_after;
}
