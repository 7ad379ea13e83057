// A soundcheck or session with one channel a microphone: what its channels are, how they add up, and what each drum says. It stays while other views are
// looked at.
import { api } from '../api/client';
import type { MicrophoneChoice, Reading, SessionHeard, Soundcheck } from '../api/types';
import { server } from '../shell/server.svelte';

/** What is being done. */
export type Work = 'sending' | 'looking' | 'simulating' | 'measuring';

/** A channel that is nobody's microphone. */
export const NOBODY = '-';

class SoundcheckStore {
  choices = $state.raw<MicrophoneChoice[]>([]);
  checked = $state.raw<Soundcheck>();
  /** What each channel is, as codes. */
  names = $state.raw<string[]>([]);
  session = $state.raw<SessionHeard>();
  work = $state<Work>();
  /** Share of the work that is done, 0 to 1; none where that is not known. */
  share = $state<number>();
  refused = $state('');
  /** What the file that was taken last is called. */
  file = $state('');

  #calledOff: AbortController | undefined;

  get named(): boolean {
    return this.names.some((name) => name !== NOBODY);
  }

  /** Whether any drum has a microphone of its own. */
  get hasDrums(): boolean {
    return this.checked?.channels.some((channel) => channel.at_a_drum) ?? false;
  }

  async loadChoices(): Promise<void> {
    if (this.choices.length === 0) await server.attempt(async () => (this.choices = await api.microphones()));
  }

  async take(file: File): Promise<void> {
    this.file = file.name;
    await this.#do('sending', async (signal) => {
      this.#show(await api.addSoundcheck(file, (share) => (this.share = share < 1 ? share : undefined), signal), signal);
    });
  }

  async simulate(): Promise<void> {
    this.file = '';
    await this.#do('simulating', async (signal) => this.#show(await api.addSimulatedSoundcheck(), signal));
  }

  /** Says what a channel is; its pairs are looked at anew. */
  async name(channel: number, as: string): Promise<void> {
    const { checked } = this;
    if (!checked) return;
    const names = this.names.map((name, index) => (index === channel ? as : name));
    this.names = names;
    this.session = undefined;
    await this.#do('looking', async () => {
      const answer = await api.soundcheck(checked.id, names);
      // Another channel was named in the meantime.
      if (this.names === names) this.checked = answer;
    });
  }

  /** Finds the hits of each drum and measures it. */
  async measure(): Promise<void> {
    const { checked, names } = this;
    if (!checked) return;
    this.session = undefined;
    await this.#do('measuring', async (signal) => {
      const tell = (reading: Reading) => (this.share = reading.share);
      this.session = await api.soundcheckDrums(checked.id, names, tell, signal);
    });
  }

  /** Calls off what is being done. */
  stop() {
    this.#calledOff?.abort();
  }

  /** Shows what came, unless something else was asked for in the meantime. */
  #show(checked: Soundcheck, signal: AbortSignal) {
    if (signal.aborted) return;
    this.checked = checked;
    this.names = checked.names;
    this.session = undefined;
  }

  /** Does one thing at a time: what came before is called off. */
  async #do(work: Work, what: (signal: AbortSignal) => Promise<void>): Promise<void> {
    this.stop();
    const calledOff = new AbortController();
    this.#calledOff = calledOff;
    this.work = work;
    this.share = undefined;
    this.refused = '';
    try {
      await what(calledOff.signal);
    } catch (error) {
      if (this.#calledOff === calledOff && !calledOff.signal.aborted) this.refused = error instanceof Error ? error.message : String(error);
    } finally {
      if (this.#calledOff === calledOff) this.work = undefined;
    }
  }
}

export const soundcheck = new SoundcheckStore();
