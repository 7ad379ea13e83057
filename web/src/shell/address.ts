// Where the page is, as what stands behind the # of its address: Back, reload and a bookmark lead to the same view.
import type { Part } from '../tonight/night.svelte';
import { type Dialog, DIALOGS } from './dialogs.svelte';
import type { Place } from './view.svelte';

export interface Address {
  place: Place;
  /** Which drum is looked at, by its number. */
  drum?: number | undefined;
  /** Which part of the evening. */
  part?: Part | undefined;
  /** What is open over the view. */
  dialog?: Dialog | undefined;
}

const PLACES: readonly Place[] = ['tonight', 'tune', 'bench', 'front', 'shelf'];
const PARTS: readonly Part[] = ['evening', 'songs', 'venues', 'genres', 'microphones'];
/** Views of one drum. */
const OF_DRUM: readonly Place[] = ['tune', 'bench', 'front'];

/** Sound begins with a press, never with an address. */
const isAddressed = (dialog: Dialog) => dialog !== 'hear';

/** "#/bench/3", "#/tonight/songs", "#/shelf?open=keys". */
export function written(address: Address): string {
  const { dialog } = address;
  return `${writtenView(address)}${dialog && isAddressed(dialog) ? `?open=${dialog}` : ''}`;
}

function writtenView({ place, drum, part }: Address): string {
  if (place === 'tonight') return `#/tonight/${part ?? 'evening'}`;
  return OF_DRUM.includes(place) && drum !== undefined ? `#/${place}/${drum}` : `#/${place}`;
}

/** What `hash` says; nothing where it is no address of ours. */
export function read(hash: string): Address | undefined {
  const [path = '', open] = hash.split('?open=');
  const view = readView(path);
  const dialog = DIALOGS.find((known) => known === open && isAddressed(known));
  return view && dialog ? { ...view, dialog } : view;
}

function readView(path: string): Address | undefined {
  const [mark, first, second] = path.split('/');
  const place = PLACES.find((known) => known === first);
  if (mark !== '#' || !place) return undefined;
  if (place === 'tonight') return { place, part: PARTS.find((known) => known === second) ?? 'evening' };
  const drum = second && /^\d+$/.test(second) ? Number(second) : undefined;
  return OF_DRUM.includes(place) ? { place, drum } : { place };
}

const TITLES: Record<Place, string> = { tonight: 'Tonight', tune: 'Tune', bench: 'Bench', front: 'The other end', shelf: 'Shelf' };
const PART_TITLES: Record<Part, string> = {
  evening: 'Evening',
  songs: 'Songs',
  venues: 'Venues',
  genres: 'Genres',
  microphones: 'Microphones',
};

/** The page's title there. */
export function titled({ place, part }: Address, drum: string | undefined): string {
  const view = place === 'tonight' ? PART_TITLES[part ?? 'evening'] : TITLES[place];
  return [OF_DRUM.includes(place) ? drum : undefined, view, 'Soft Ember'].filter(Boolean).join(' · ');
}
