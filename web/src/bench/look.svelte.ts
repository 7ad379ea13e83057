// A closer look at one strike, with others of its take to hold it against.
import { api } from '../api/client';
import type { Dynamic, StrikeLook, StrikeView, TakeView } from '../api/types';
import { workbench } from './workbench.svelte';
import { server } from '../shell/server.svelte';
import { dialogs } from '../shell/dialogs.svelte';
import { notices } from '../shell/notices.svelte';

/** The word for how hard a strike was asked for. */
export const DYNAMIC: Record<Dynamic, string> = { soft: 'Soft', medium: 'Medium', hard: 'Hard' };
const ORDER: Dynamic[] = ['soft', 'medium', 'hard'];

/** Another strike of the take, drawn behind. */
export interface Other {
  name: string;
  look: StrikeLook;
}

/** Of each dynamic of a take the usable strike in the middle by level, soft to hard. */
export function middles(strikes: StrikeView[]): StrikeView[] {
  return ORDER.flatMap((dynamic) => {
    const alike = strikes.filter((strike) => strike.dynamic === dynamic && strike.advice.length === 0 && !strike.dropped);
    alike.sort((a, b) => a.peak_dbfs - b.peak_dbfs);
    return alike[Math.floor(alike.length / 2)] ?? [];
  });
}

class Looking {
  take = $state.raw<TakeView>();
  /** Index of the strike in its take. */
  at = $state(0);
  look = $state.raw<StrikeLook>();
  others = $state.raw<Other[]>([]);

  #asked = 0;

  get strike(): StrikeView | undefined {
    return this.take?.strikes[this.at];
  }

  /** Opens on a strike of a take. */
  async open(take: TakeView, at: number): Promise<void> {
    this.take = take;
    await this.go(at);
    dialogs.show('look');
  }

  /** Opens on the best strike of what is known about the drum on the bench. */
  async openBench(): Promise<void> {
    const take = workbench.bench?.found ?? workbench.bench?.open;
    if (!take) return;
    const worth = take.strikes.map((strike) => (strike.dropped ? -1 : strike.quality.score));
    await this.open(take, worth.indexOf(Math.max(...worth)));
  }

  /** Goes to another strike of the take. */
  async go(at: number): Promise<void> {
    const strike = this.take?.strikes[at];
    if (!strike) return;
    const asked = ++this.#asked;
    await server.attempt(async () => {
      const behind = middles(this.take?.strikes ?? []).filter((other) => other.id !== strike.id);
      const [look, ...looks] = await Promise.all([strike, ...behind].map(({ id }) => api.look(id)));
      // A later one was asked for in the meantime.
      if (asked !== this.#asked) return;
      this.at = at;
      this.look = look;
      this.others = looks.map((each, i) => ({ name: DYNAMIC[behind[i]?.dynamic ?? 'medium'], look: each }));
      notices.said = `Strike ${at + 1}. ${look?.sentences.join(' ') ?? ''}`;
    });
  }
}

export const looking = new Looking();
