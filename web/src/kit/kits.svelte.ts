// Kits of the player's: which drums stand together, in which order, and which of them stay in their cases tonight.
import { api } from '../api/client';
import type { KeptKit, KitContent, KitDrum, Kits, UsualKitInfo } from '../api/types';
import { server } from '../shell/server.svelte';
import { drumKit } from './drumKit.svelte';
import { notices } from '../shell/notices.svelte';
import { load } from '../shell/load';

/** What of a kit is kept when it is changed. */
const contentOf = ({ name, drums, borrowed, venue_id }: KitContent): KitContent => ({ name, drums, borrowed, venue_id: venue_id ?? null });

class KitStore {
  all = $state.raw<Kits>();

  async load(): Promise<void> {
    await server.attempt(async () => (this.all = await api.kits()));
  }

  /** Plays on another kit tonight. */
  async play(kit: KeptKit): Promise<void> {
    await this.#playing(kit.id, `Tonight on the ${kit.name}.`);
  }

  /** Changes a kit, so that it can be undone. One change after the other: whoever presses quickly changes what the press before has left. */
  change(kit: KeptKit, change: (now: KitContent) => Partial<KitContent>, said: string): Promise<boolean> {
    const changed = this.#changing.then(() => this.#change(kit, change, said));
    this.#changing = changed;
    return changed;
  }

  #changing: Promise<unknown> = Promise.resolve();

  async #change(kit: KeptKit, change: (now: KitContent) => Partial<KitContent>, said: string): Promise<boolean> {
    const tonight = drumKit.kit?.kit;
    const before = contentOf(this.all?.kits.find((row) => row.id === kit.id) ?? (tonight?.id === kit.id ? tonight : kit));
    return server.attempt(async () => {
      await api.changeKit(kit.id, { ...before, ...change(before) });
      notices.add(said, async () => {
        await api.changeKit(kit.id, before);
        await this.load();
      });
      await this.#afterwards();
    });
  }

  /** Begins a kit of its own, empty or with the drums of a usual one, and plays on it. */
  async begin(kit: KitContent, usual?: UsualKitInfo, cymbals = true): Promise<boolean> {
    return server.attempt(async () => {
      const before = drumKit.kit?.tonight.kit_id ?? null;
      const kept = await api.addKit(contentOf(kit));
      await this.#playing(kept.id);
      const added = usual ? await api.addUsualKit(usual.kit, cymbals) : [];
      notices.add(`“${kept.name}” is your kit tonight.`, async () => {
        for (const { id } of added) await api.removeDrum(id);
        await this.#playing(before);
        await api.removeKit(kept.id);
        await this.load();
      });
      await this.#afterwards();
    });
  }

  /** Removes a kit; its drums stay. */
  async remove(kit: KeptKit): Promise<void> {
    await server.attempt(async () => {
      await api.removeKit(kit.id);
      notices.add(`“${kit.name}” was removed. Its drums stay.`, async () => {
        await api.bringBackKit(kit.id);
        await this.load();
      });
      await this.#afterwards();
    });
  }

  /** Sets a drum up that was in its case; what it stands in for goes into its own. */
  async setUp(drum: number, instead?: number): Promise<void> {
    const kit = drumKit.kit?.kit;
    if (!kit) return;
    const at = (each: KitDrum) => ({ ...each, in_case: each.drum_id === drum ? false : each.drum_id === instead ? true : each.in_case });
    const name = (id: number) => drumKit.kit?.drums.find((state) => state.drum.id === id)?.drum.name ?? 'other one';
    const said = instead === undefined ? `The ${name(drum)} is set up.` : `The ${name(drum)} stands in for the ${name(instead)}.`;
    await this.change(kit, ({ drums }) => ({ drums: drums.map(at) }), said);
  }

  async #playing(kit_id: number | null, said?: string): Promise<void> {
    const tonight = drumKit.kit?.tonight;
    if (!tonight) return;
    await server.attempt(async () => {
      await api.setTonight({ ...tonight, kit_id });
      if (said)
        notices.add(said, async () => {
          await api.setTonight(tonight);
          await this.#afterwards();
        });
      await this.#afterwards();
    });
  }

  async #afterwards(): Promise<void> {
    if (this.all) await this.load();
    await load();
  }
}

export const kits = new KitStore();
