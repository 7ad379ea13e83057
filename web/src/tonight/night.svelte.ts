// What the place Tonight knows and does: venues, set lists and the evening worked out. One instance.
import { api } from '../api/client';
import type { Evening, EveningPlan, KeptSetList, KeptVenue, Placement, SetList, UsualInfo, VenueChoices, Weighing } from '../api/types';
import { app } from '../shell/app.svelte';

export type Part = 'evening' | 'songs' | 'venues' | 'genres';

class Night {
  part = $state<Part>('evening');
  choices = $state.raw<VenueChoices>();
  usual = $state.raw<UsualInfo[]>([]);
  venues = $state.raw<KeptVenue[]>([]);
  setLists = $state.raw<KeptSetList[]>([]);
  evening = $state.raw<Evening>();
  solving = $state(false);
  weighing = $state<Weighing>('few_looks');
  loaded = $state(false);

  #asked = 0;

  get setList(): KeptSetList | undefined {
    return this.setLists.find((list) => list.id === app.kit?.tonight.set_list_id);
  }

  get venue(): KeptVenue | undefined {
    return this.venues.find((venue) => venue.id === app.kit?.tonight.venue_id);
  }

  get plan(): EveningPlan | undefined {
    return this.evening?.plans.find((plan) => plan.weighing === this.weighing) ?? this.evening?.plans[0];
  }

  /** Reads everything anew, then works the evening out. */
  async load(): Promise<void> {
    await app.attempt(async () => {
      const usual = this.usual.length > 0 ? this.usual : api.usual();
      [this.choices, this.usual, this.venues, this.setLists] = await Promise.all([
        this.choices ?? api.venueChoices(),
        usual,
        api.venues(),
        api.setLists(),
      ]);
      this.loaded = true;
      await this.#solve();
    });
  }

  /** Works the evening out on the kit as it is measured now. */
  async #solve(): Promise<void> {
    const id = app.kit?.tonight.set_list_id;
    const asked = ++this.#asked;
    if (id == null) {
      this.evening = undefined;
      return;
    }
    this.solving = true;
    try {
      const evening = await api.evening(id);
      if (asked === this.#asked) this.evening = evening;
    } finally {
      if (asked === this.#asked) this.solving = false;
    }
  }

  /** Something that the evening depends on was changed: the kit and the evening follow. */
  async changed(): Promise<void> {
    await app.refresh();
    await this.load();
  }

  async chooseVenue(id: number | null): Promise<void> {
    await app.setTonight({ venue_id: id });
    await this.load();
  }

  async chooseSetList(id: number | null): Promise<void> {
    await app.setTonight({ set_list_id: id });
    await this.load();
  }

  /** The song is what everything is held against from now on. */
  async playNow(song: number): Promise<void> {
    await app.setTonight({ song_id: song });
  }

  /** Keeps the current set list as `list`; what it was can be brought back. */
  async saveSetList(list: SetList, said: string): Promise<boolean> {
    const before = this.setList;
    if (!before) return false;
    return app.attempt(async () => {
      const { id, ...was } = before;
      await api.changeSetList(id, list);
      app.notice(said, async () => {
        await api.changeSetList(id, was);
        await this.load();
      });
      await this.load();
    });
  }

  /** Pins a drum to a setup in one line of the list; without a setup the pin is taken out. */
  async pin(entry: number, drum: number, placements: Placement[] | undefined, said: string): Promise<void> {
    const list = this.setList;
    if (!list) return;
    const entries = list.entries.map((line, index) => {
      if (index !== entry || line.kind !== 'song') return line;
      const others = (line.pins ?? []).filter((pin) => pin.drum_id !== drum);
      return { ...line, pins: placements ? [...others, { drum_id: drum, placements }] : others };
    });
    await this.saveSetList({ name: list.name, gap_s: list.gap_s, entries }, said);
  }

  async addSetList(list: SetList): Promise<void> {
    await app.attempt(async () => {
      const kept = await api.addSetList(list);
      await app.setTonight({ set_list_id: kept.id });
      await this.load();
    });
  }

  async removeSetList(): Promise<void> {
    const list = this.setList;
    if (!list) return;
    await app.attempt(async () => {
      await api.removeSetList(list.id);
      app.notice(`“${list.name}” was removed. Its songs are kept.`, async () => {
        await api.bringBackSetList(list.id);
        await app.setTonight({ set_list_id: list.id });
        await this.load();
      });
      await this.changed();
    });
  }
}

export const night = new Night();
