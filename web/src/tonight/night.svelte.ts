// What the place Tonight knows and does: venues, set lists and the evening worked out. One instance.
import { api } from '../api/client';
import type {
  Evening,
  EveningPlan,
  KeptLine,
  KeptSetList,
  KeptVenue,
  Placement,
  SetList,
  UsualInfo,
  VenueChoices,
  Weighing,
} from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { server, unlessRefused } from '../shell/server.svelte';
import { workbench } from '../bench/workbench.svelte';
import { playedTonight } from './playedTonight.svelte';
import { notices } from '../shell/notices.svelte';

export type Part = 'evening' | 'songs' | 'venues' | 'genres' | 'microphones';

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
  #played: number | undefined;
  #telling = false;

  get setList(): KeptSetList | undefined {
    return this.setLists.find((list) => list.id === drumKit.kit?.tonight.set_list_id);
  }

  get venue(): KeptVenue | undefined {
    return this.venues.find((venue) => venue.id === drumKit.kit?.tonight.venue_id);
  }

  get plan(): EveningPlan | undefined {
    return this.evening?.plans.find((plan) => plan.weighing === this.weighing) ?? this.evening?.plans[0];
  }

  /** Reads everything anew, then works the evening out. */
  async load(): Promise<void> {
    await server.attempt(async () => {
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

  /** Reads the places there are. */
  async loadPlaces(): Promise<void> {
    await server.attempt(async () => (this.venues = await api.venues()));
  }

  /** Works the evening out on the kit as it is measured now. */
  async #solve(): Promise<void> {
    const id = drumKit.kit?.tonight.set_list_id;
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
    await workbench.refresh();
    await this.load();
  }

  async chooseVenue(id: number | null): Promise<void> {
    await playedTonight.set({ venue_id: id });
    await this.load();
  }

  async chooseSetList(id: number | null): Promise<void> {
    await playedTonight.set({ set_list_id: id });
    await this.load();
  }

  /** The song is what everything is held against from now on. */
  async playNow(song: number): Promise<void> {
    await playedTonight.set({ song_id: song });
  }

  /** Changes the current set list; what it was can be brought back, with the opinion that the change told. */
  async saveSetList(change: Partial<SetList>, said: string, opinion?: number): Promise<boolean> {
    const before = this.setList;
    if (!before) return false;
    return server.attempt(async () => {
      const { id, ...was } = before;
      await api.changeSetList(id, { ...was, ...change });
      notices.add(said, async () => {
        await api.changeSetList(id, was);
        if (opinion !== undefined) await api.takeOpinionBack(opinion);
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
    await server.attempt(async () => {
      const told = placements && (await this.#chosen(entry, drum, placements));
      await this.saveSetList({ entries }, said, told?.id ?? undefined);
    });
  }

  /** What it tells that a drum is to be otherwise in a song than it was planned. */
  async #chosen(entry: number, drum: number, rather: Placement[]) {
    const at = this.evening?.songs.findIndex((song) => song.entry === entry) ?? -1;
    const which = this.evening?.drums.findIndex((each) => each.drum_id === drum) ?? -1;
    const planned = this.evening?.drums[which]?.setups[this.plan?.rows[at]?.cells[which]?.setup ?? -1]?.placements;
    const song = this.evening?.songs[at]?.song.id;
    if (!planned || song === undefined || JSON.stringify(planned) === JSON.stringify(rather)) return undefined;
    // The pin stands, whatever it tells.
    return api.choose(drum, { deed: 'pinned', rather, than: planned, song_id: song }).catch(unlessRefused);
  }

  /** Says whether a drum is played in one line of the list. */
  async setOut(entry: number, drum: number, out: boolean, said: string): Promise<void> {
    const list = this.setList;
    if (!list) return;
    const entries = list.entries.map((line, index) => {
      if (index !== entry || line.kind !== 'song') return line;
      const others = (line.out ?? []).filter((other) => other !== drum);
      return { ...line, out: out ? [...others, drum] : others };
    });
    await this.saveSetList({ entries }, said);
  }

  /** Plays a drum that stays in its case in the place of another in one line of the list; without one, the other is back. */
  async setInstead(entry: number, forId: number, drumId: number | undefined, said: string): Promise<void> {
    const list = this.setList;
    if (!list) return;
    const entries = list.entries.map((line, index) => {
      if (index !== entry || line.kind !== 'song') return line;
      const others = (line.instead ?? []).filter((swap) => swap.for_id !== forId && swap.drum_id !== drumId);
      return { ...line, instead: drumId === undefined ? others : [...others, { drum_id: drumId, for_id: forId }] };
    });
    await this.saveSetList({ entries }, said);
  }

  /** Whether a plan of this list is kept to. */
  get keepsPlan(): boolean {
    return this.setList?.entries.some((line) => line.kind === 'song' && (line.kept ?? []).length > 0) ?? false;
  }

  /** How many songs of the list were played. */
  get played(): number {
    return this.setList?.entries.filter((line) => line.kind === 'song' && line.played).length ?? 0;
  }

  /** Another night begins: everything can be changed again. */
  async notPlayed(): Promise<void> {
    await this.playedUpTo(0);
    await this.load();
  }

  /** How the drums are in each song of the plan that is seen. */
  get #lines(): KeptLine[] {
    const { evening, plan } = this;
    return (evening?.songs ?? []).map(({ entry }, song) => ({
      entry,
      setups: (evening?.drums ?? []).flatMap(({ drum_id, setups }, drum) => {
        const setup = setups[plan?.rows[song]?.cells[drum]?.setup ?? -1];
        return setup ? [{ drum_id, placements: setup.placements }] : [];
      }),
    }));
  }

  /** Keeps to the plan that is seen: from now on only what is heard to be off is planned otherwise. */
  async keepPlan(): Promise<void> {
    const list = this.setList;
    if (!list) return;
    await server.attempt(async () => {
      this.#have(await api.keepPlan(list.id, this.#lines));
      notices.add('Kept. Changing one song now leaves the others as they are.', () => this.planAnew());
    });
  }

  /** Plans the whole evening anew; the plan that was kept to can be brought back. */
  async planAnew(): Promise<void> {
    const list = this.setList;
    if (!list) return;
    const before = list.entries.flatMap((line, entry) => (line.kind === 'song' && line.kept?.length ? [{ entry, setups: line.kept }] : []));
    await server.attempt(async () => {
      await api.keepPlan(list.id, []);
      notices.add('Planned anew.', async () => {
        await api.keepPlan(list.id, before);
        await this.load();
      });
      await this.load();
    });
  }

  /** The first `lines` lines were played: they stay as they were, whatever is planned after them. Whoever plays keeps to the plan. */
  async playedUpTo(lines: number): Promise<void> {
    this.#played = lines;
    if (this.#telling) return;
    this.#telling = true;
    // One after the other, and of several pressed in a hurry the last one only.
    while (this.#played !== undefined) await this.#tellPlayed();
    this.#telling = false;
  }

  async #tellPlayed(): Promise<void> {
    const [list, lines] = [this.setList, this.#played ?? 0];
    this.#played = undefined;
    if (!list) return;
    await server.attempt(async () => {
      if (lines > 0 && !this.keepsPlan) this.#have(await api.keepPlan(list.id, this.#lines));
      this.#have(await api.setPlayed(list.id, lines));
    });
  }

  #have(list: KeptSetList) {
    this.setLists = this.setLists.map((each) => (each.id === list.id ? list : each));
  }

  async addSetList(list: SetList): Promise<void> {
    await server.attempt(async () => {
      const kept = await api.addSetList(list);
      await playedTonight.set({ set_list_id: kept.id });
      await this.load();
    });
  }

  async removeSetList(): Promise<void> {
    const list = this.setList;
    if (!list) return;
    await server.attempt(async () => {
      await api.removeSetList(list.id);
      notices.add(`“${list.name}” was removed. Its songs are kept.`, async () => {
        await api.bringBackSetList(list.id);
        await playedTonight.set({ set_list_id: list.id });
        await this.load();
      });
      await this.changed();
    });
  }
}

export const night = new Night();
