// Where the page is, as what stands behind the # of its address: Back, reload and a bookmark lead to the same view.
import type { Part } from '../tonight/night.svelte';
import { type Dialog, DIALOGS, partBehind } from './dialogs.svelte';
import type { Place } from './view.svelte';

export interface Address {
  place: Place;
  /** Which drum is looked at, by its number. */
  drum?: number | undefined;
  /** Which part of the evening. */
  part?: Part | undefined;
  /** What is open over the view. */
  dialog?: Dialog | undefined;
  /** What the dialog is about: a song's number, a genre's code. */
  of?: string | undefined;
}

const PLACES: readonly Place[] = ['tonight', 'tune', 'bench', 'front', 'shelf'];
const PARTS: readonly Part[] = ['evening', 'songs', 'venues', 'genres', 'microphones'];
/** Views of one drum. */
const OF_DRUM: readonly Place[] = ['tune', 'bench', 'front'];

/** Sound begins with a press, never with an address. */
const isAddressed = (dialog: Dialog) => dialog !== 'hear';

/** "#/bench/3", "#/tonight/songs", "#/shelf?open=keys", "#/tonight/songs?open=song&of=12". */
export function written(address: Address): string {
  const { dialog, of } = address;
  if (!dialog || !isAddressed(dialog)) return writtenView(address);
  return `${writtenView(address)}?${new URLSearchParams(of === undefined ? { open: dialog } : { open: dialog, of })}`;
}

function writtenView({ place, drum, part }: Address): string {
  if (place === 'tonight') return `#/tonight/${part ?? 'evening'}`;
  return OF_DRUM.includes(place) && drum !== undefined ? `#/${place}/${drum}` : `#/${place}`;
}

/** What `hash` says; nothing where it is no address of ours. */
export function read(hash: string): Address | undefined {
  const [path = '', asked = ''] = hash.split('?');
  const view = readView(path);
  const query = new URLSearchParams(asked);
  const dialog = DIALOGS.find((known) => known === query.get('open') && isAddressed(known));
  if (!view || !dialog) return view;
  const behind = partBehind(dialog);
  if (behind && behind !== view.part) return view;
  return { ...view, dialog, of: query.get('of') ?? undefined };
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
