// The dialogs that a key or the address opens: one at a time, over whatever view is shown.

import type { Part } from '../tonight/night.svelte';
import { notices } from './notices.svelte';

/** The part of Tonight that each dialog lies over; over any view, where none is given. */
const OVER = {
  keys: undefined,
  storage: undefined,
  'new-drum': undefined,
  drum: undefined,
  kits: undefined,
  repairs: undefined,
  look: undefined,
  hear: undefined,
  song: 'songs',
  'song-list': 'songs',
  venue: 'venues',
  genre: 'genres',
  cell: 'evening',
} as const satisfies Record<string, Part | undefined>;

export type Dialog = keyof typeof OVER;
export const DIALOGS = Object.keys(OVER) as Dialog[];

/** The part of Tonight that is seen behind it, if it is tied to one. */
export const partBehind = (dialog: Dialog): Part | undefined => OVER[dialog];

class Dialogs {
  open = $state<Dialog>();
  /** What it is about: a song's number, a genre's code; nothing for a new one and where there is only one such thing. */
  of = $state<string>();

  show(dialog: Dialog, of?: string | number) {
    this.of = of?.toString();
    this.open = dialog;
  }

  /** What it should be about is not there: an address may be older than the data. */
  missing(dialog: Dialog) {
    this.close(dialog);
    notices.add('That is not there any more.');
  }

  /** Closes these; another one that has come since stays. */
  close(...which: Dialog[]) {
    if (this.open && which.includes(this.open)) this.open = undefined;
  }
}

export const dialogs = new Dialogs();
