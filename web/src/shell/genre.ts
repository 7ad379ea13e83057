import type { Genre } from '../api/types';
import { playedTonight } from '../tonight/playedTonight.svelte';
import { drumKit } from '../kit/drumKit.svelte';

/** A genre chosen by hand is played plainly: what the song asked for went with the song. */
const PLAIN = {
  song_id: null,
  meter: '4/4',
  feel: 'straight',
  gaps: {},
  dynamics: { softest: 'medium', hardest: 'medium' },
  school: null,
} as const;

/** Tonight's genre; none where a song or nothing says otherwise. */
export const genreTonight = () => playedTonight.genres.find((each) => each.code === drumKit.kit?.tonight.genre);

/** Plays `genre` tonight. A tempo of the player's own stays; the genre's usual one goes with it. */
export async function playGenre(genre: Genre): Promise<void> {
  const bpm = drumKit.kit?.tonight.bpm;
  const usual = bpm === undefined || genreTonight()?.usual_bpm === bpm;
  await playedTonight.set({ ...PLAIN, genre: genre.code, bpm: usual ? genre.usual_bpm : bpm });
}
