// How the page begins, and how it notices that the server has gone.
import { api } from '../api/client';
import { workbench } from '../bench/workbench.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { kinds } from '../kit/kinds.svelte';
import { deviceShelf } from '../shelf/deviceShelf.svelte';
import { playedTonight } from '../tonight/playedTonight.svelte';
import { dataStatus } from './dataStatus.svelte';
import { server } from './server.svelte';

const WATCH_MS = 5000;
/** So many looks at the server bring one at its data. */
const LOOKS_TO_DATA = 12;

/** Reads everything anew; also how the page begins. */
export async function load(): Promise<void> {
  server.onReturn = load;
  await server.attempt(async () => {
    const [kit, genres, shelf, data] = await Promise.all([api.kit(), api.genres(), api.shelf(), api.data(), kinds.load()]);
    dataStatus.status = data;
    drumKit.kit = kit;
    playedTonight.genres = genres;
    deviceShelf.devices = shelf;
    const known = kit.drums.some((state) => state.drum.id === drumKit.drumId);
    await workbench.choose(known ? drumKit.drumId : kit.drums[0]?.drum.id);
  });
}

/** Looks every few seconds whether the server is still there: a page beside the kit is not touched for long. */
export function watch(): () => void {
  let looks = 0;
  const look = () => {
    if (!server.reachable || !drumKit.kit || document.hidden) return;
    looks += 1;
    void (looks % LOOKS_TO_DATA === 0 ? dataStatus.read() : server.attempt(() => api.kit()));
  };
  const timer = setInterval(look, WATCH_MS);
  return () => clearInterval(timer);
}
