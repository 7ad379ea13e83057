// Requests to the server. Every failure is a Refusal with a sentence to show, or Unreachable.
import type {
  Audition,
  AuditionVersion,
  BandLevels,
  BlowPage,
  Bench,
  DataCopy,
  DataStatus,
  DeviceKind,
  Drum,
  DrumKind,
  Elsewhere,
  Evening,
  FileTake,
  Front,
  FrontPage,
  Genre,
  HeadSide,
  UnevenState,
  UnevenRecipe,
  KeptUneven,
  HeadState,
  HeadChange,
  Head,
  GuideStep,
  KeptDrum,
  KeptLine,
  KeptSetList,
  KeptSong,
  KeptVenue,
  Kit,
  KitPitches,
  Labelled,
  MeasuredAgain,
  ModelWish,
  Moved,
  Lesson,
  NewSong,
  NoteEnds,
  NoteValue,
  NextStep,
  Plans,
  Placement,
  OwnThing,
  PassedOver,
  PlaceFound,
  PlanView,
  Preset,
  Problem,
  Reading,
  ReadSong,
  DiskRoom,
  RoomDecay,
  SeatingTask,
  SetList,
  ShelfDevice,
  Song,
  SongPage,
  Storage,
  StrikeLook,
  TakePage,
  TakeView,
  Thinned,
  Thinning,
  TomIntervals,
  Tonight,
  TreatmentView,
  Tuning,
  Venue,
  Opinion,
  UsualInfo,
  VenueChoices,
  UsedBefore,
  WhatIsLearned,
} from './types';

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

function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  return body === undefined ? ask(method, path) : ask(method, path, 'application/json', JSON.stringify(body));
}

/** Sends `body` as it is. */
async function ask<T>(method: string, path: string, type?: string, body?: BodyInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(ROOT + path, { method, headers: type ? { 'content-type': type } : {}, body: body ?? null });
  } catch {
    throw new Unreachable('Soft Ember does not answer.');
  }
  if (!response.ok) throw new Refusal(await sentence(response), response.status);
  return (response.status === 204 ? undefined : await response.json()) as T;
}

/** What is at an address of the server's, as bytes. */
async function bytes(address: string): Promise<ArrayBuffer> {
  let response: Response;
  try {
    response = await fetch(address);
  } catch {
    throw new Unreachable('Soft Ember does not answer.');
  }
  if (!response.ok) throw new Refusal(await sentence(response), response.status);
  return response.arrayBuffer();
}

async function sentence(response: Response): Promise<string> {
  try {
    return ((await response.json()) as Problem).detail;
  } catch {
    return `The server answered ${response.status} without saying why.`;
  }
}

/** How a file is going: share sent, 0 to 1; from then on it is measured, of which this share is done, with so many strikes found. */
export type UploadProgress = (sent: number, measured?: Reading) => void;

/** How often the server is asked how far it has come, ms. */
const ASK_MS = 500;

/** Sends a sound file; `signal` calls it off. XMLHttpRequest, because fetch does not tell how much was sent. */
function upload(drum: number, file: File, progress: UploadProgress, signal: AbortSignal): Promise<FileTake> {
  const job = crypto.randomUUID();
  let asking: ReturnType<typeof setInterval> | undefined;
  // One that has just ended is not known any more; its answer is on its way.
  const ask = () =>
    call<Reading>('GET', `/readings/${job}`).then(
      (reading) => progress(1, reading),
      () => {},
    );
  return new Promise<FileTake>((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `${ROOT}/drums/${drum}/takes/file?name=${encodeURIComponent(file.name)}&job=${job}`);
    request.upload.onload = () => (asking = setInterval(() => void ask(), ASK_MS));
    request.setRequestHeader('content-type', 'application/octet-stream');
    request.upload.onprogress = (event) => progress(event.lengthComputable ? event.loaded / event.total : 0);
    request.onload = () => {
      let answer: unknown;
      try {
        answer = JSON.parse(request.responseText);
      } catch {
        answer = { detail: `The server answered ${request.status} without saying why.` };
      }
      if (request.status === 201) resolve(answer as FileTake);
      else reject(new Refusal((answer as Problem).detail, request.status));
    };
    request.onerror = () => reject(new Unreachable('The file could not be sent: Soft Ember does not answer.'));
    request.onabort = () => reject(new DOMException('Called off', 'AbortError'));
    signal.addEventListener('abort', () => request.abort());
    request.send(file);
  }).finally(() => clearInterval(asking));
}

const SOUND = 'application/octet-stream';

/** A sound to be measured: a recording or file, or a simulated place. */
export type VenueSound = { sound: Blob; name: string } | { simulated: string; loudness: string };

function hear<T>(path: string, from: VenueSound): Promise<T> {
  if ('simulated' in from) return ask('POST', `${path}?${new URLSearchParams(from)}`);
  return ask('POST', `${path}?name=${encodeURIComponent(from.name)}`, SOUND, from.sound);
}

export const api = {
  kit: () => call<Kit>('GET', '/kit'),
  data: () => call<DataStatus>('GET', '/data'),
  storage: () => call<Storage>('GET', '/storage'),
  setThinning: (rule: Thinning) => call('PUT', '/storage/thinning', rule),
  forgetThinning: () => call('DELETE', '/storage/thinning'),
  wouldThin: (rule: Thinning) => call<Thinned>('POST', '/storage/thinning/outlook', rule),
  thin: (rule: Thinning) => call<Thinned>('POST', '/storage/thinning/done', rule),
  compact: () => call<DiskRoom>('POST', '/storage/compaction'),
  copyNow: () => call<DataCopy[]>('POST', '/storage/copies'),
  genres: () => call<Genre[]>('GET', '/presets'),
  usual: () => call<UsualInfo[]>('GET', '/presets/usual'),
  setPreset: (preset: Preset) => call('PUT', `/presets/${preset.code}`, preset),
  resetPreset: (code: string) => call('DELETE', `/presets/${code}`),
  wishFromSound: (kind: DrumKind, file: File) =>
    ask<ModelWish>('POST', `/presets/wish-from-sound?kind=${kind}&name=${encodeURIComponent(file.name)}`, SOUND, file),
  venueChoices: () => call<VenueChoices>('GET', '/venues/choices'),
  venues: () => call<KeptVenue[]>('GET', '/venues'),
  addVenue: (venue: Venue) => call<KeptVenue>('POST', '/venues', venue),
  changeVenue: (id: number, venue: Venue) => call<KeptVenue>('PUT', `/venues/${id}`, venue),
  removeVenue: (id: number) => call('DELETE', `/venues/${id}`),
  bringBackVenue: (id: number) => call('POST', `/venues/${id}/back`),
  measureRoom: (from: VenueSound) => hear<RoomDecay>('/venues/measure/room', from),
  measureLevels: (from: VenueSound) => hear<BandLevels>('/venues/measure/levels', from),
  songs: (search: string, offset: number, limit: number) =>
    call<SongPage>('GET', `/songs?${new URLSearchParams({ search, offset: String(offset), limit: String(limit) })}`),
  addSong: (song: Song) => call<KeptSong>('POST', '/songs', song),
  changeSong: (id: number, song: Song) => call<KeptSong>('PUT', `/songs/${id}`, song),
  removeSong: (id: number) => call('DELETE', `/songs/${id}`),
  bringBackSong: (id: number) => call('POST', `/songs/${id}/back`),
  /** As its bytes are: how they are to be read is for the server to tell. */
  previewSongs: (list: Blob) => ask<ReadSong[]>('POST', '/songs/import/preview', 'text/plain', list),
  importSongs: (songs: NewSong[]) => call<number[]>('POST', '/songs/import', songs),
  setLists: () => call<KeptSetList[]>('GET', '/set-lists'),
  addSetList: (list: SetList) => call<KeptSetList>('POST', '/set-lists', list),
  changeSetList: (id: number, list: SetList) => call<KeptSetList>('PUT', `/set-lists/${id}`, list),
  removeSetList: (id: number) => call('DELETE', `/set-lists/${id}`),
  bringBackSetList: (id: number) => call('POST', `/set-lists/${id}/back`),
  keepPlan: (id: number, lines: KeptLine[]) => call<KeptSetList>('PUT', `/set-lists/${id}/kept-plan`, { lines }),
  setPlayed: (id: number, lines: number) => call<KeptSetList>('PUT', `/set-lists/${id}/played`, { lines }),
  evening: (setList: number) => call<Evening>('GET', `/set-lists/${setList}/evening`),
  shelf: () => call<ShelfDevice[]>('GET', '/shelf'),
  learned: () => call<WhatIsLearned>('GET', '/learned'),
  addOwn: (thing: OwnThing) => call<ShelfDevice>('POST', '/shelf/own', thing),
  changeOwn: (device: DeviceKind, thing: OwnThing) => call<ShelfDevice>('PUT', `/shelf/own/${device}`, thing),
  removeOwn: (device: DeviceKind) => call('DELETE', `/shelf/own/${device}`),
  lesson: (drum: number, device: DeviceKind) => call<Lesson>('GET', `/drums/${drum}/lesson?device=${device}`),
  setShelf: (device: string, count: number) => call('PUT', `/shelf/${device}`, { count }),
  setTonight: (tonight: Tonight) => call<Tonight>('PUT', '/tonight', tonight),
  addDrum: (drum: Drum) => call<KeptDrum>('POST', '/drums', drum),
  changeDrum: (id: number, drum: Drum) => call<KeptDrum>('PUT', `/drums/${id}`, drum),
  removeDrum: (id: number) => call('DELETE', `/drums/${id}`),
  bench: (drum: number) => call<Bench>('GET', `/drums/${drum}/bench`),
  audition: (drum: number, meant: string) => call<Audition>('GET', `/drums/${drum}/audition?${meant}`),
  soundAt: bytes,
  layOut: (drum: number, placements: Placement[], improve: boolean) =>
    call<PlanView>('POST', `/drums/${drum}/layouts`, { placements, improve }),
  plans: (drum: number) => call<Plans>('GET', `/drums/${drum}/plans`),
  passedOver: (drum: number) => call<PassedOver[]>('GET', `/drums/${drum}/passed-over`),
  nextStep: (drum: number) => call<NextStep | null>('GET', `/drums/${drum}/next-step`),
  putOn: (drum: number, plan: PlanView) =>
    call<TreatmentView>('POST', `/drums/${drum}/treatments`, { offer: plan.offer, placements: plan.placements }),
  usedBefore: (drum: number) => call<UsedBefore[]>('GET', `/drums/${drum}/treatments`),
  nameTreatment: (id: number, name: string) => call<TreatmentView>('PATCH', `/treatments/${id}`, { name }),
  changeTreatment: (id: number, on: boolean) => call<TreatmentView>('PATCH', `/treatments/${id}`, { on }),
  takes: (drum: number, before?: number) => call<TakePage>('GET', `/drums/${drum}/takes${before === undefined ? '' : `?before=${before}`}`),
  take: (id: number) => call<TakeView>('GET', `/takes/${id}`),
  removeTake: (id: number) => call('DELETE', `/takes/${id}`),
  look: (strike: number) => call<StrikeLook>('GET', `/strikes/${strike}/look`),
  measureAgain: (take: number, keep: boolean) => call<MeasuredAgain>('POST', `/takes/${take}/measured-again`, { keep }),
  changeTake: (id: number, counted: boolean) => call<TakeView>('PATCH', `/takes/${id}`, { counted }),
  sayOpinion: (drum: number, opinion: Opinion) => call<{ id: number }>('POST', `/drums/${drum}/opinions`, { opinion }),
  takeOpinionBack: (id: number) => call('DELETE', `/opinions/${id}`),
  forgetOpinions: (drum: number) => call('DELETE', `/drums/${drum}/opinions`),
  recallOpinions: (drum: number) => call('POST', `/drums/${drum}/opinions/recalled`),
  elsewhere: (take: number) => call<Elsewhere[]>('GET', `/takes/${take}/elsewhere`),
  keepStrikes: (drum: number, strikes: number[], more: Partial<Moved> = {}) =>
    call<TakeView>('POST', `/drums/${drum}/takes/strikes`, { ...more, strikes }),
  labels: (take: number, track: string) => ask<Labelled>('POST', `/takes/${take}/labels`, 'text/plain', track),
  changeStrike: (id: number, dropped: boolean) => call<TakeView>('PATCH', `/strikes/${id}`, { dropped }),
  tuning: (drum: number, side: HeadSide) => call<Tuning>('GET', `/drums/${drum}/tuning?side=${side}`),
  setWantedHz: (drum: number, side: HeadSide, wanted_hz: number | null) =>
    call<Tuning>('PUT', `/drums/${drum}/tuning/wish`, { side, wanted_hz }),
  setTurned: (round: number, eighths: number[] | null) => call<Tuning>('PUT', `/rounds/${round}/turned`, { eighths }),
  removeRound: (id: number) => call('DELETE', `/rounds/${id}`),
  bringBackRound: (id: number) => call('POST', `/rounds/${id}/back`),
  head: (drum: number, side: HeadSide) => call<HeadState>('GET', `/drums/${drum}/head?side=${side}`),
  putOnHead: (drum: number, side: HeadSide, head: Head) => call<HeadChange>('POST', `/drums/${drum}/head`, { side, head }),
  takeHeadBack: (change: number) => call('DELETE', `/head-changes/${change}`),
  uneven: (drum: number, side: HeadSide) => call<UnevenState>('GET', `/drums/${drum}/uneven?side=${side}`),
  letDown: (drum: number, side: HeadSide, recipe: UnevenRecipe, slack_eighths: number | null) =>
    call<KeptUneven>('POST', `/drums/${drum}/uneven`, { side, recipe, slack_eighths }),
  rodsBack: (uneven: number) => call<KeptUneven>('POST', `/uneven/${uneven}/back`),
  rodsNotBack: (uneven: number) => call<KeptUneven>('DELETE', `/uneven/${uneven}/back`),
  notLetDown: (uneven: number) => call('DELETE', `/uneven/${uneven}`),
  front: (drum: number, playing: Record<string, string>) => call<FrontPage>('GET', `/drums/${drum}/front?${new URLSearchParams(playing)}`),
  tryFront: (drum: number, front: Front, placements: Placement[]) =>
    call<TreatmentView>('POST', `/drums/${drum}/front-trials`, { front, placements }),
  blows: (drum: number, from: string) => call<BlowPage>('GET', `/drums/${drum}/blows?${new URLSearchParams({ from })}`),
  noteEnds: (drum: number, value: NoteValue, bpm: number) => call<NoteEnds>('GET', `/drums/${drum}/note-ends?value=${value}&bpm=${bpm}`),
  declineFrontTrial: (drum: number, declined: boolean) => call('PUT', `/drums/${drum}/front-trials/declined`, { declined }),
  changeFront: (drum: number, front: Front) => call<HeadChange>('PUT', `/drums/${drum}/front`, { front }),
  checkHole: (drum: number, hole: Record<string, string>) => call<PlaceFound>('GET', `/drums/${drum}/hole?${new URLSearchParams(hole)}`),
  seated: (drum: number, side: HeadSide) => call('POST', `/drums/${drum}/tuning/seated?side=${side}`),
  kitPitches: (intervals: TomIntervals, bass: string) =>
    call<KitPitches>('GET', `/kit/pitches?${new URLSearchParams({ intervals, bass })}`),
  seating: (drum: number, side: HeadSide, task: SeatingTask) =>
    call<GuideStep[]>('GET', `/drums/${drum}/tuning/seating?side=${side}&task=${task}`),
  upload,
};

/** Address of all songs as a file, or of a set list's in its order. */
export const songsAs = (format: 'csv' | 'json', setList?: number) =>
  `${ROOT}/songs/export?format=${format}${setList === undefined ? '' : `&set_list=${setList}`}`;

/** Address of a strike's sound. */
/** Where a version of a drum's sound is, WAV. */
export const auditionSoundOf = (drum: number, version: AuditionVersion['version'], meant: string) =>
  `${ROOT}/drums/${drum}/audition/${version}?${meant}`;
export const soundOf = (strike: number) => `${ROOT}/strikes/${strike}/sound`;

/** Address of a strike's level over time as CSV. */
export const levelCsvOf = (strike: number) => `${ROOT}/strikes/${strike}/level.csv`;

/** Address of a take's figures as CSV: a row for each strike, or for each partial of each. */
export const labelsOf = (take: number) => `${ROOT}/takes/${take}/labels.txt`;
export const csvOf = (take: number, what: 'strikes' | 'partials') => `${ROOT}/takes/${take}/${what}.csv`;

/** Address of a hole's template in full size. */
export const templateOf = (drum: number, format: 'pdf' | 'svg', hole: Record<string, string>) =>
  `${ROOT}/drums/${drum}/hole/template.${format}?${new URLSearchParams(hole)}`;

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
