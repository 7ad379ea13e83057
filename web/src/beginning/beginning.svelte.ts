// The first minutes: a kit, what is to hand, and the music. What can be chosen is the server's; each choice is one step that can be undone.
import { api } from '../api/client';
import type { ShelfDevice, ShelfSetInfo, UsualKitInfo } from '../api/types';
import { server } from '../shell/server.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { view } from '../shell/view.svelte';
import { deviceShelf } from '../shelf/deviceShelf.svelte';
import { notices } from '../shell/notices.svelte';
import { load } from '../shell/load';
import { workbench } from '../bench/workbench.svelte';
import { counted } from '../shell/figures';

class Beginning {
  kits = $state.raw<UsualKitInfo[]>([]);
  sets = $state.raw<ShelfSetInfo[]>([]);
  /** Whether a usual kit brings its cymbals. */
  cymbals = $state(true);
  busy = $state(false);

  async load(): Promise<void> {
    if (this.kits.length > 0) return;
    await server.attempt(async () => {
      [this.kits, this.sets] = await Promise.all([api.usualKits(), api.shelfSets()]);
    });
  }

  /** Adds a usual kit; then it is asked what lies on the shelf, where that is not known yet. */
  async addKit({ kit, name }: UsualKitInfo): Promise<void> {
    await this.#once(async () => {
      const added = await api.addUsualKit(kit, this.cymbals);
      drumKit.drumId = added[0]?.id;
      view.beginning = shelfIsMet(deviceShelf.devices) ? 'music' : 'shelf';
      notices.add(`${name}: ${counted(added.length, 'piece', 'pieces')} added.`, async () => {
        for (const { id } of added) await api.removeDrum(id);
        view.beginning = undefined;
        await load();
      });
      await workbench.refresh();
    });
  }

  /** Puts what `set` holds on the shelf. */
  async addSet({ set, name }: ShelfSetInfo): Promise<void> {
    await this.#once(async () => {
      const before = deviceShelf.devices;
      deviceShelf.devices = await api.addShelfSet(set);
      const more = deviceShelf.devices.filter((item) => item.count > countOf(before, item.kind));
      notices.add(`${name}: ${counted(more.length, 'thing', 'things')} put on the shelf.`, async () => {
        for (const { kind } of more) await api.setShelf(kind, countOf(before, kind));
        await deviceShelf.read();
      });
      await workbench.replan();
    });
  }

  async #once(work: () => Promise<void>): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    await server.attempt(work);
    this.busy = false;
  }
}

export const beginning = new Beginning();

const countOf = (shelf: ShelfDevice[], kind: ShelfDevice['kind']) => shelf.find((item) => item.kind === kind)?.count ?? 0;

/** Whether it was ever said what is to hand: what is done to the rods needs nothing. */
export const shelfIsMet = (shelf: ShelfDevice[]) => shelf.some((item) => item.count > 0 && !item.tuning);

/** What of `set` is not on the shelf yet, or not in that number. */
export const lackingOf = (set: ShelfSetInfo, shelf: ShelfDevice[]) =>
  set.things.filter(({ device, count }) => countOf(shelf, device) < count);
