// Requests to the server. Every failure is a Refusal with a sentence to show, or Unreachable.
import type {
  Bench,
  Drum,
  FileTake,
  Genre,
  KeptDrum,
  Kit,
  Plans,
  PlanView,
  Problem,
  ShelfDevice,
  TakeView,
  Tonight,
  TreatmentView,
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

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(ROOT + path, {
      method,
      headers: body === undefined ? {} : { 'content-type': 'application/json' },
      body: body === undefined ? null : JSON.stringify(body),
    });
  } catch {
    throw new Unreachable('Soft Ember does not answer.');
  }
  if (!response.ok) throw new Refusal(await sentence(response), response.status);
  return (response.status === 204 ? undefined : await response.json()) as T;
}

async function sentence(response: Response): Promise<string> {
  try {
    return ((await response.json()) as Problem).detail;
  } catch {
    return `The server answered ${response.status} without saying why.`;
  }
}

/** How a file upload is going: share sent, 0 to 1; from then on it is being measured. */
export type UploadProgress = (sent: number) => void;

/** Sends a sound file; `signal` calls it off. XMLHttpRequest, because fetch does not tell how much was sent. */
function upload(drum: number, file: File, progress: UploadProgress, signal: AbortSignal): Promise<FileTake> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `${ROOT}/drums/${drum}/takes/file?name=${encodeURIComponent(file.name)}`);
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
  });
}

export const api = {
  kit: () => call<Kit>('GET', '/kit'),
  genres: () => call<Genre[]>('GET', '/genres'),
  shelf: () => call<ShelfDevice[]>('GET', '/shelf'),
  setShelf: (device: string, count: number) => call('PUT', `/shelf/${device}`, { count }),
  setTonight: (tonight: Tonight) => call<Tonight>('PUT', '/tonight', tonight),
  addDrum: (drum: Drum) => call<KeptDrum>('POST', '/drums', drum),
  changeDrum: (id: number, drum: Drum) => call<KeptDrum>('PUT', `/drums/${id}`, drum),
  removeDrum: (id: number) => call('DELETE', `/drums/${id}`),
  bench: (drum: number) => call<Bench>('GET', `/drums/${drum}/bench`),
  plans: (drum: number) => call<Plans>('GET', `/drums/${drum}/plans`),
  putOn: (drum: number, plan: PlanView) =>
    call<TreatmentView>('POST', `/drums/${drum}/treatments`, { offer: plan.offer, placements: plan.placements }),
  changeTreatment: (id: number, on: boolean) => call<TreatmentView>('PATCH', `/treatments/${id}`, { on }),
  take: (id: number) => call<TakeView>('GET', `/takes/${id}`),
  removeTake: (id: number) => call('DELETE', `/takes/${id}`),
  changeStrike: (id: number, dropped: boolean) => call<TakeView>('PATCH', `/strikes/${id}`, { dropped }),
  upload,
};

/** Address of a strike's sound. */
export const soundOf = (strike: number) => `${ROOT}/strikes/${strike}/sound`;

/** Address of the listening WebSocket. */
export function listenAddress(drum: number, options: Record<string, string>): string {
  const scheme = location.protocol === 'https:' ? 'wss' : 'ws';
  return `${scheme}://${location.host}${ROOT}/drums/${drum}/listen?${new URLSearchParams(options)}`;
}
