// Requests to the server. Every failure is a Refusal with a sentence to show, or Unreachable. Paths, parameters, bodies and answers are those
// of the server's own description (schema.gen.ts): what does not agree with it does not compile.
import createClient from 'openapi-fetch';
import type {
  AuditionVersion,
  BlowAsked,
  Choice,
  Drum,
  DrumKind,
  DeviceKind,
  FileTake,
  Front,
  FrontAsked,
  Head,
  HeadSide,
  KeptLine,
  KitContent,
  Loudness,
  Moved,
  NewSong,
  NoteValue,
  Opinion,
  OwnThing,
  OwnWishAsked,
  Placement,
  PlanView,
  Preset,
  Problem,
  Reading,
  RoomClass,
  SeatingTask,
  SetList,
  ShelfSet,
  Song,
  Soundcheck,
  Thinning,
  TomIntervals,
  Tonight,
  UnevenRecipe,
  UsualKit,
  Venue,
  WhatIf,
} from './types';
import type { paths } from './schema.gen';

/** The server understood and refused; `message` is its sentence. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** The server does not answer. */
export class Unreachable extends Error {}

const ROOT = '/api/v1';
// The page's own address; where there is no page, this machine's.
const baseUrl = (globalThis.location as Location | undefined)?.origin ?? 'http://127.0.0.1';
const client = createClient<paths>({ baseUrl, fetch: (request) => fetch(request) });

/** What the server tells, or why it does not. */
async function told<T>(asked: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer: { data?: T; error?: unknown; response: Response };
  try {
    answer = await asked;
  } catch {
    throw new Unreachable('Soft Ember does not answer.');
  }
  const { response, data, error } = answer;
  if (!response.ok) throw new Refusal(sentence(error, response.status), response.status);
  return data as T;
}

function sentence(problem: unknown, status: number): string {
  const detail = (problem as Partial<Problem> | undefined)?.detail;
  return detail ?? `The server answered ${status} without saying why.`;
}

/** A body that goes as its bytes are, which the description has as a list of numbers. */
function asBytes(body: Blob, type = 'application/octet-stream') {
  const bodySerializer = (bytes: number[]) => bytes as unknown as BodyInit;
  return { body: body as unknown as number[], bodySerializer, headers: { 'content-type': type } };
}

/** A body that is plain text. */
function asText(body: string) {
  return { body, bodySerializer: (text: string) => text, headers: { 'content-type': 'text/plain' } };
}

/** The parameter that most addresses have. */
const at = <T>(id: T) => ({ params: { path: { id } } });

/** How a file is going: share sent, 0 to 1; from then on it is measured, of which this share is done, with so many strikes found. */
export type UploadProgress = (sent: number, measured?: Reading) => void;

/** How often the server is asked how far it has come, ms. */
const ASK_MS = 500;

/** Sends a file to an address under the API's root; `signal` calls it off. XMLHttpRequest, because fetch does not tell how much was sent. */
function send<T>(path: string, file: File, sent: (share: number) => void, signal: AbortSignal): Promise<T> {
  return new Promise<T>((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `${ROOT}${path}`);
    request.upload.onload = () => sent(1);
    request.setRequestHeader('content-type', 'application/octet-stream');
    request.upload.onprogress = (event) => sent(event.lengthComputable ? event.loaded / event.total : 0);
    request.onload = () => {
      let answer: unknown;
      try {
        answer = JSON.parse(request.responseText);
      } catch {
        answer = undefined;
      }
      if (request.status === 201) resolve(answer as T);
      else reject(new Refusal(sentence(answer, request.status), request.status));
    };
    request.onerror = () => reject(new Unreachable('The file could not be sent: Soft Ember does not answer.'));
    request.onabort = () => reject(new DOMException('Called off', 'AbortError'));
    signal.addEventListener('abort', () => request.abort());
    request.send(file);
  });
}

/** Asks from time to time how far a job has come, until `work` is done. */
async function watched<T>(job: string, tell: (reading: Reading) => void, work: Promise<T>): Promise<T> {
  // One that has just ended, or has not begun, is not known; its answer is on its way.
  const ask = () => told(client.GET('/api/v1/readings/{job}', { params: { path: { job } } })).then(tell, () => {});
  const asking = setInterval(() => void ask(), ASK_MS);
  return work.finally(() => clearInterval(asking));
}

/** Sends a sound file of one drum and has it measured. */
function upload(drum: number, file: File, progress: UploadProgress, signal: AbortSignal): Promise<FileTake> {
  const job = crypto.randomUUID();
  const path = `/drums/${drum}/takes/file?name=${encodeURIComponent(file.name)}&job=${job}`;
  let share = 0;
  const sent = (now: number) => progress((share = now));
  const take = send<FileTake>(path, file, sent, signal);
  return watched(job, (reading) => share >= 1 && progress(1, reading), take);
}

/** A sound to be measured: a recording or file, or a simulated place. */
export type VenueSound = { sound: Blob; name: string } | { simulated: RoomClass; loudness: Loudness };

function heard(from: VenueSound, recorded?: 'band' | 'empty_room') {
  const of = recorded ? { recorded } : {};
  if ('simulated' in from) return { params: { query: { ...from, ...of } }, ...asBytes(new Blob()) };
  return { params: { query: { name: from.name, ...of } }, ...asBytes(from.sound) };
}

export const api = {
  kit: () => told(client.GET('/api/v1/kit')),
  data: () => told(client.GET('/api/v1/data')),
  storage: () => told(client.GET('/api/v1/storage')),
  setThinning: (body: Thinning) => told(client.PUT('/api/v1/storage/thinning', { body })),
  forgetThinning: () => told(client.DELETE('/api/v1/storage/thinning')),
  wouldThin: (body: Thinning) => told(client.POST('/api/v1/storage/thinning/outlook', { body })),
  thin: (body: Thinning) => told(client.POST('/api/v1/storage/thinning/done', { body })),
  compact: () => told(client.POST('/api/v1/storage/compaction')),
  copyNow: () => told(client.POST('/api/v1/storage/copies')),
  genres: () => told(client.GET('/api/v1/presets')),
  usual: () => told(client.GET('/api/v1/presets/usual')),
  setPreset: (body: Preset) => told(client.PUT('/api/v1/presets/{code}', { params: { path: { code: body.code } }, body })),
  resetPreset: (code: string) => told(client.DELETE('/api/v1/presets/{code}', { params: { path: { code } } })),
  wishFromSound: (kind: DrumKind, file: File) =>
    told(client.POST('/api/v1/presets/wish-from-sound', { params: { query: { kind, name: file.name } }, ...asBytes(file) })),
  microphones: () => told(client.GET('/api/v1/microphones')),
  addSoundcheck: (file: File, sent: (share: number) => void, signal: AbortSignal) =>
    send<Soundcheck>(`/soundchecks?name=${encodeURIComponent(file.name)}`, file, sent, signal),
  addSimulatedSoundcheck: () => told(client.POST('/api/v1/soundchecks/simulated')),
  soundcheck: (id: number, names: string[]) =>
    told(client.GET('/api/v1/soundchecks/{id}', { params: { path: { id }, query: { names: names.join(',') } } })),
  soundcheckDrums: (id: number, names: string[], tell: (reading: Reading) => void, signal: AbortSignal) => {
    const job = crypto.randomUUID();
    const query = { names: names.join(','), job };
    return watched(job, tell, told(client.GET('/api/v1/soundchecks/{id}/drums', { params: { path: { id }, query }, signal })));
  },
  venueChoices: () => told(client.GET('/api/v1/venues/choices')),
  venues: () => told(client.GET('/api/v1/venues')),
  addVenue: (body: Venue) => told(client.POST('/api/v1/venues', { body })),
  changeVenue: (id: number, body: Venue) => told(client.PUT('/api/v1/venues/{id}', { ...at(id), body })),
  removeVenue: (id: number) => told(client.DELETE('/api/v1/venues/{id}', at(id))),
  bringBackVenue: (id: number) => told(client.POST('/api/v1/venues/{id}/back', at(id))),
  measureRoom: (from: VenueSound) => told(client.POST('/api/v1/venues/measure/room', heard(from))),
  measureLevels: (from: VenueSound, recorded: 'band' | 'empty_room') =>
    told(client.POST('/api/v1/venues/measure/levels', heard(from, recorded))),
  songs: (search: string, limit: number, after?: number) =>
    told(client.GET('/api/v1/songs', { params: { query: { search, after, limit } } })),
  song: (id: number) => told(client.GET('/api/v1/songs/{id}', at(id))),
  addSong: (body: Song) => told(client.POST('/api/v1/songs', { body })),
  changeSong: (id: number, body: Song) => told(client.PUT('/api/v1/songs/{id}', { ...at(id), body })),
  removeSong: (id: number) => told(client.DELETE('/api/v1/songs/{id}', at(id))),
  bringBackSong: (id: number) => told(client.POST('/api/v1/songs/{id}/back', at(id))),
  /** As its bytes are: how they are to be read is for the server to tell. */
  previewSongs: (list: Blob) => told(client.POST('/api/v1/songs/import/preview', asBytes(list, 'text/plain'))),
  importSongs: (body: NewSong[]) => told(client.POST('/api/v1/songs/import', { body })),
  setLists: () => told(client.GET('/api/v1/set-lists')),
  addSetList: (body: SetList) => told(client.POST('/api/v1/set-lists', { body })),
  changeSetList: (id: number, body: SetList) => told(client.PUT('/api/v1/set-lists/{id}', { ...at(id), body })),
  removeSetList: (id: number) => told(client.DELETE('/api/v1/set-lists/{id}', at(id))),
  bringBackSetList: (id: number) => told(client.POST('/api/v1/set-lists/{id}/back', at(id))),
  keepPlan: (id: number, lines: KeptLine[]) => told(client.PUT('/api/v1/set-lists/{id}/kept-plan', { ...at(id), body: { lines } })),
  setPlayed: (id: number, lines: number) => told(client.PUT('/api/v1/set-lists/{id}/played', { ...at(id), body: { lines } })),
  evening: (setList: number) => told(client.GET('/api/v1/set-lists/{id}/evening', at(setList))),
  shelf: () => told(client.GET('/api/v1/shelf')),
  learned: () => told(client.GET('/api/v1/learned')),
  addOwn: (body: OwnThing) => told(client.POST('/api/v1/shelf/own', { body })),
  changeOwn: (device: DeviceKind, body: OwnThing) => told(client.PUT('/api/v1/shelf/own/{device}', { params: { path: { device } }, body })),
  removeOwn: (device: DeviceKind) => told(client.DELETE('/api/v1/shelf/own/{device}', { params: { path: { device } } })),
  lesson: (id: number, device: DeviceKind) =>
    told(client.GET('/api/v1/drums/{id}/lesson', { params: { path: { id }, query: { device } } })),
  setShelf: (device: DeviceKind, count: number) =>
    told(client.PUT('/api/v1/shelf/{device}', { params: { path: { device } }, body: { count } })),
  setTonight: (body: Tonight) => told(client.PUT('/api/v1/tonight', { body })),
  kits: () => told(client.GET('/api/v1/kits')),
  addKit: (body: KitContent) => told(client.POST('/api/v1/kits', { body })),
  changeKit: (id: number, body: KitContent) => told(client.PUT('/api/v1/kits/{id}', { ...at(id), body })),
  removeKit: (id: number) => told(client.DELETE('/api/v1/kits/{id}', at(id))),
  bringBackKit: (id: number) => told(client.POST('/api/v1/kits/{id}/back', at(id))),
  characters: () => told(client.GET('/api/v1/characters')),
  setOwnWish: (drum: number, body: OwnWishAsked) => told(client.PUT('/api/v1/drums/{id}/own-wish', { ...at(drum), body })),
  usualKits: () => told(client.GET('/api/v1/usual-kits')),
  addUsualKit: (kit: UsualKit, cymbals: boolean) => told(client.POST('/api/v1/usual-kits', { body: { kit, cymbals } })),
  shelfSets: () => told(client.GET('/api/v1/shelf/sets')),
  addShelfSet: (set: ShelfSet) => told(client.POST('/api/v1/shelf/sets', { body: { set } })),
  drumKinds: () => told(client.GET('/api/v1/drum-kinds')),
  repairs: () => told(client.GET('/api/v1/repairs')),
  addDrum: (body: Drum) => told(client.POST('/api/v1/drums', { body })),
  changeDrum: (id: number, body: Drum) => told(client.PUT('/api/v1/drums/{id}', { ...at(id), body })),
  removeDrum: (id: number) => told(client.DELETE('/api/v1/drums/{id}', at(id))),
  bench: (drum: number) => told(client.GET('/api/v1/drums/{id}/bench', at(drum))),
  audition: (drum: number, body: WhatIf) => told(client.POST('/api/v1/drums/{id}/audition', { ...at(drum), body })),
  /** One version of a drum's sound, WAV. */
  auditionSound: (id: number, version: AuditionVersion['version'], body: WhatIf): Promise<ArrayBuffer> => {
    const asked = client.POST('/api/v1/drums/{id}/audition/{version}', { params: { path: { id, version } }, body, parseAs: 'arrayBuffer' });
    return told<ArrayBuffer>(asked as Promise<{ data?: ArrayBuffer; error?: unknown; response: Response }>);
  },
  layOut: (drum: number, placements: Placement[], improve: boolean) =>
    told(client.POST('/api/v1/drums/{id}/layouts', { ...at(drum), body: { placements, improve } })),
  plans: (drum: number) => told(client.GET('/api/v1/drums/{id}/plans', at(drum))),
  passedOver: (drum: number) => told(client.GET('/api/v1/drums/{id}/passed-over', at(drum))),
  nextStep: (drum: number) => told(client.GET('/api/v1/drums/{id}/next-step', at(drum))),
  putOn: (drum: number, { offer, placements }: PlanView) =>
    told(client.POST('/api/v1/drums/{id}/treatments', { ...at(drum), body: { offer, placements } })),
  usedBefore: (drum: number) => told(client.GET('/api/v1/drums/{id}/treatments', at(drum))),
  nameTreatment: (id: number, name: string) => told(client.PATCH('/api/v1/treatments/{id}', { ...at(id), body: { name } })),
  changeTreatment: (id: number, on: boolean) => told(client.PATCH('/api/v1/treatments/{id}', { ...at(id), body: { on } })),
  takes: (id: number, after?: number) => told(client.GET('/api/v1/drums/{id}/takes', { params: { path: { id }, query: { after } } })),
  take: (id: number) => told(client.GET('/api/v1/takes/{id}', at(id))),
  removeTake: (id: number) => told(client.DELETE('/api/v1/takes/{id}', at(id))),
  look: (strike: number) => told(client.GET('/api/v1/strikes/{id}/look', at(strike))),
  measureAgain: (take: number, keep: boolean) => told(client.POST('/api/v1/takes/{id}/measured-again', { ...at(take), body: { keep } })),
  changeTake: (id: number, counted: boolean) => told(client.PATCH('/api/v1/takes/{id}', { ...at(id), body: { counted } })),
  sayOpinion: (drum: number, opinion: Opinion) => told(client.POST('/api/v1/drums/{id}/opinions', { ...at(drum), body: { opinion } })),
  /** Keeps that one layout was chosen over another. */
  choose: (drum: number, body: Choice) => told(client.POST('/api/v1/drums/{id}/choices', { ...at(drum), body })),
  takeOpinionBack: (id: number) => told(client.DELETE('/api/v1/opinions/{id}', at(id))),
  forgetOpinions: (drum: number) => told(client.DELETE('/api/v1/drums/{id}/opinions', at(drum))),
  recallOpinions: (drum: number) => told(client.POST('/api/v1/drums/{id}/opinions/back', at(drum))),
  elsewhere: (take: number) => told(client.GET('/api/v1/takes/{id}/elsewhere', at(take))),
  keepStrikes: (drum: number, strikes: number[], more: Partial<Moved> = {}) =>
    told(client.POST('/api/v1/drums/{id}/takes/strikes', { ...at(drum), body: { ...more, strikes } })),
  labels: (take: number, track: string) => told(client.POST('/api/v1/takes/{id}/labels', { ...at(take), ...asText(track) })),
  changeStrike: (id: number, dropped: boolean) => told(client.PATCH('/api/v1/strikes/{id}', { ...at(id), body: { dropped } })),
  tuning: (id: number, side: HeadSide) => told(client.GET('/api/v1/drums/{id}/tuning', { params: { path: { id }, query: { side } } })),
  setWantedHz: (drum: number, side: HeadSide, wanted_hz: number | null) =>
    told(client.PUT('/api/v1/drums/{id}/tuning/wish', { ...at(drum), body: { side, wanted_hz } })),
  setTurned: (round: number, eighths: number[] | null) =>
    told(client.PUT('/api/v1/rounds/{id}/turned', { ...at(round), body: { eighths } })),
  removeRound: (id: number) => told(client.DELETE('/api/v1/rounds/{id}', at(id))),
  bringBackRound: (id: number) => told(client.POST('/api/v1/rounds/{id}/back', at(id))),
  head: (id: number, side: HeadSide) => told(client.GET('/api/v1/drums/{id}/head', { params: { path: { id }, query: { side } } })),
  putOnHead: (drum: number, side: HeadSide, head: Head) =>
    told(client.POST('/api/v1/drums/{id}/head', { ...at(drum), body: { side, head } })),
  takeHeadBack: (change: number) => told(client.DELETE('/api/v1/head-changes/{id}', at(change))),
  uneven: (id: number, side: HeadSide) => told(client.GET('/api/v1/drums/{id}/uneven', { params: { path: { id }, query: { side } } })),
  letDown: (drum: number, side: HeadSide, recipe: UnevenRecipe, slack_eighths: number | null) =>
    told(client.POST('/api/v1/drums/{id}/uneven', { ...at(drum), body: { side, recipe, slack_eighths } })),
  rodsBack: (uneven: number) => told(client.PATCH('/api/v1/uneven/{id}', { ...at(uneven), body: { ended: true } })),
  rodsNotBack: (uneven: number) => told(client.PATCH('/api/v1/uneven/{id}', { ...at(uneven), body: { ended: false } })),
  notLetDown: (uneven: number) => told(client.DELETE('/api/v1/uneven/{id}', at(uneven))),
  front: (drum: number, body: FrontAsked) => told(client.POST('/api/v1/drums/{id}/front/outlook', { ...at(drum), body })),
  tryFront: (drum: number, front: Front, placements: Placement[]) =>
    told(client.POST('/api/v1/drums/{id}/front-trials', { ...at(drum), body: { front, placements } })),
  blows: (drum: number, body: BlowAsked) => told(client.POST('/api/v1/drums/{id}/blows', { ...at(drum), body })),
  noteEnds: (id: number, value: NoteValue, bpm: number) =>
    told(client.GET('/api/v1/drums/{id}/note-ends', { params: { path: { id }, query: { value, bpm } } })),
  declineFrontTrial: (drum: number, declined: boolean) =>
    told(client.PUT('/api/v1/drums/{id}/front-trials/declined', { ...at(drum), body: { declined } })),
  changeFront: (drum: number, front: Front) => told(client.PUT('/api/v1/drums/{id}/front', { ...at(drum), body: { front } })),
  checkHole: (id: number, query: HoleAsked) => told(client.GET('/api/v1/drums/{id}/hole', { params: { path: { id }, query } })),
  seated: (id: number, side: HeadSide) =>
    told(client.POST('/api/v1/drums/{id}/tuning/seated', { params: { path: { id }, query: { side } } })),
  kitPitches: (intervals: TomIntervals, bass: string) =>
    told(client.GET('/api/v1/kit/pitches', { params: { query: { intervals, bass } } })),
  seating: (id: number, side: HeadSide, task: SeatingTask) =>
    told(client.GET('/api/v1/drums/{id}/tuning/seating', { params: { path: { id }, query: { side, task } } })),
  upload,
};

/** A hole, and what it is checked against. */
export type HoleAsked = paths['/api/v1/drums/{id}/hole']['get']['parameters']['query'];

/** Address of all songs as a file, or of a set list's in its order. */
export const songsAs = (format: 'csv' | 'json', setList?: number) =>
  `${ROOT}/songs/export?format=${format}${setList === undefined ? '' : `&set_list=${setList}`}`;

/** Address of a strike's sound. */
export const soundOf = (strike: number) => `${ROOT}/strikes/${strike}/sound`;

/** Address of a strike's level over time as CSV. */
export const levelCsvOf = (strike: number) => `${ROOT}/strikes/${strike}/level.csv`;

/** Address of a take's label track. */
export const labelsOf = (take: number) => `${ROOT}/takes/${take}/labels.txt`;

/** Address of a take's figures as CSV: a row for each strike, or for each partial of each. */
export const csvOf = (take: number, what: 'strikes' | 'partials') => `${ROOT}/takes/${take}/${what}.csv`;

/** Address of a hole's template in full size. */
export const templateOf = (drum: number, format: 'pdf' | 'svg', hole: HoleAsked) =>
  `${ROOT}/drums/${drum}/hole/template.${format}?${new URLSearchParams(Object.entries(hole).map(([name, value]) => [name, String(value)]))}`;

/** Address of the listening WebSocket. */
export const listenAddress = (drum: number, options: Record<string, string>) => live(`/drums/${drum}/listen`, options);

/** Address of the WebSocket for a round of taps. */
export const tapAddress = (drum: number, options: Record<string, string>) => live(`/drums/${drum}/tuning/listen`, options);

/** Address of the WebSocket on which notes of a written length come. */
export const notesAddress = (drum: number, options: Record<string, string>) => live(`/drums/${drum}/notes/listen`, options);

/** Address of the WebSocket on which the notes of a bass come. */
export const bassAddress = (options: Record<string, string>) => live('/bass/listen', options);

function live(path: string, options: Record<string, string>): string {
  const scheme = location.protocol === 'https:' ? 'wss' : 'ws';
  return `${scheme}://${location.host}${ROOT}${path}?${new URLSearchParams(options)}`;
}
