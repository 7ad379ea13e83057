// A live session: the connection on which sound goes out and events come in. What they mean is for its owner.
import type { ListenEvent } from '../api/types';
import { type Microphone, NoMicrophone, openMicrophone } from './microphone';

export type Hearing = 'microphone' | 'simulated';

/** The server answers within this, or is gone, ms. */
const ANSWER_MS = 5000;

export interface LiveOwner {
  /** Where to connect; `rate`: samples a second that will be sent, none where nothing is. */
  address: (rate?: number) => string;
  event: (event: ListenEvent) => void;
  /** What the browser does to the sound although it was asked not to. */
  warned: (warnings: string[]) => void;
  failed: (why: string) => void;
}

export class Live {
  #socket: WebSocket | undefined;
  #microphone: Microphone | undefined;
  #patience: ReturnType<typeof setTimeout> | undefined;
  #owner: LiveOwner;
  #sending = false;
  #closed = false;

  private constructor(owner: LiveOwner) {
    this.#owner = owner;
  }

  /** Begins; from a click or a key, since browsers open a microphone from nothing else. */
  static begin(hearing: Hearing, owner: LiveOwner): Live {
    const live = new Live(owner);
    if (hearing === 'simulated') live.#connect();
    else void live.#listen();
    return live;
  }

  /** Asks the server to end; its last event follows. */
  stop() {
    this.#sending = false;
    this.say('stop');
    this.#patience = setTimeout(() => this.#fail('The server does not answer. What was told here is kept.'), ANSWER_MS);
  }

  say(word: string) {
    if (this.#socket?.readyState === WebSocket.OPEN) this.#socket.send(word);
  }

  /** Lets go of everything; nothing is told any more. */
  close() {
    // Whoever is told that it failed lets go of it once more.
    if (this.#closed) return;
    this.#closed = true;
    clearTimeout(this.#patience);
    this.#socket?.close();
    this.#microphone?.close();
  }

  async #listen() {
    try {
      const microphone = await openMicrophone(
        (start, samples) => this.#send(start, samples),
        (why) => this.#fail(`${why} What was heard is kept.`),
      );
      // Called off while the browser was asking.
      if (this.#closed) return microphone.close();
      this.#microphone = microphone;
      this.#owner.warned(microphone.warnings);
      this.#connect(Math.round(microphone.rate));
    } catch (error) {
      this.#fail(error instanceof NoMicrophone ? error.message : `The microphone could not be opened: ${String(error)}`);
    }
  }

  #connect(rate?: number) {
    const socket = new WebSocket(this.#owner.address(rate));
    socket.binaryType = 'arraybuffer';
    this.#socket = socket;
    socket.onmessage = ({ data }: MessageEvent<string>) => {
      if (this.#closed) return;
      const event = JSON.parse(data) as ListenEvent;
      if (event.event === 'ready') this.#sending = true;
      this.#owner.event(event);
    };
    socket.onclose = () => this.#fail('The connection to Soft Ember broke off. What was told here is kept.');
  }

  #send(start: number, samples: Float32Array<ArrayBuffer>) {
    if (this.#socket?.readyState !== WebSocket.OPEN || !this.#sending) return;
    const message = new ArrayBuffer(8 + samples.byteLength);
    new DataView(message).setBigUint64(0, BigInt(start), true);
    new Uint8Array(message, 8).set(new Uint8Array(samples.buffer));
    this.#socket.send(message);
  }

  #fail(why: string) {
    if (this.#closed) return;
    this.close();
    this.#owner.failed(why);
  }
}
