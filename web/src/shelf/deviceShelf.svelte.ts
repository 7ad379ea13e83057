// What is on the shelf. Plans are made with it.
import { api } from '../api/client';
import type { DeviceKind, ShelfDevice } from '../api/types';
import { workbench } from '../bench/workbench.svelte';
import { notices } from '../shell/notices.svelte';
import { server } from '../shell/server.svelte';

class DeviceShelf {
  devices = $state.raw<ShelfDevice[]>([]);

  /** Reads the shelf again, and plans with what is on it now. */
  async read(): Promise<void> {
    this.devices = await api.shelf();
    await workbench.replan();
  }

  /** Says how many of a device there are. */
  async set(device: DeviceKind, count: number): Promise<void> {
    const before = this.devices.find((item) => item.kind === device)?.count ?? 0;
    this.#show(device, count);
    await server.attempt(async () => {
      try {
        await api.setShelf(device, count);
      } catch (error) {
        this.#show(device, before);
        throw error;
      }
      await workbench.replan();
    });
  }

  #show(device: DeviceKind, count: number) {
    this.devices = this.devices.map((item) => (item.kind === device ? { ...item, count } : item));
  }

  /** Takes a thing of the player's own off the shelf. */
  async removeOwn(item: ShelfDevice): Promise<void> {
    const made = item.made;
    if (!made) return;
    await server.attempt(async () => {
      await api.removeOwn(item.kind);
      notices.add(`“${made.name}” is off the shelf.`, async () => {
        await api.changeOwn(item.kind, { ...made, count: item.count });
        await this.read();
      });
      await this.read();
    });
  }
}

export const deviceShelf = new DeviceShelf();
