// The browser's microphone as raw samples, with everything switched off that would bend a decay.
import captureUrl from './capture.worklet.js?url';
import { Gaps } from './gaps';

export interface Microphone {
  /** Samples a second. */
  rate: number;
  /** What the browser does to the sound although it was asked not to, as sentences. */
  warnings: string[];
  close: () => void;
}

/** Samples from index `start` on, counted since the beginning. */
export type Samples = (start: number, samples: Float32Array<ArrayBuffer>) => void;

/** Why there is no sound; `message` says what to do. */
export class NoMicrophone extends Error {}

const DEVICE_KEY = 'soft-ember-microphone';

export function chosenInput(): string {
  return localStorage.getItem(DEVICE_KEY) ?? '';
}

export function chooseInput(id: string) {
  localStorage.setItem(DEVICE_KEY, id);
}

/** Inputs to choose from; without names until the microphone was allowed once. */
export async function inputs(): Promise<MediaDeviceInfo[]> {
  const devices = (await navigator.mediaDevices?.enumerateDevices()) ?? [];
  return devices.filter((device) => device.kind === 'audioinput' && device.deviceId !== '');
}

/** Opens the microphone. Call it from a click or a key: browsers start sound from nothing else. */
export async function openMicrophone(onSamples: Samples, onLost: (why: string) => void): Promise<Microphone> {
  const context = new AudioContext({ latencyHint: 'interactive' });
  try {
    const stream = await allowed();
    const track = stream.getAudioTracks()[0];
    if (!track) throw new NoMicrophone('The microphone gives no sound.');
    await context.audioWorklet.addModule(captureUrl);
    const source = context.createMediaStreamSource(stream);
    // 'speakers' would halve a signal that is on one side only.
    const capture = new AudioWorkletNode(context, 'capture', {
      numberOfOutputs: 0,
      channelCount: 1,
      channelCountMode: 'explicit',
      channelInterpretation: 'discrete',
    });
    const gaps = new Gaps(context.sampleRate);
    let next = 0;
    capture.port.onmessage = ({ data }: MessageEvent<{ samples: Float32Array<ArrayBuffer>; at: number }>) => {
      next += gaps.arrived(data.samples.length, data.at);
      onSamples(next, data.samples);
      next += data.samples.length;
    };
    track.onended = () => onLost('The microphone was unplugged or switched off.');
    source.connect(capture);
    await context.resume();
    return {
      rate: context.sampleRate,
      warnings: bending(track.getSettings()),
      close: () => {
        track.onended = null;
        capture.port.onmessage = null;
        stream.getTracks().forEach((each) => each.stop());
        void context.close();
      },
    };
  } catch (error) {
    void context.close();
    throw error;
  }
}

async function allowed(): Promise<MediaStream> {
  if (!navigator.mediaDevices) {
    throw new NoMicrophone(
      'This browser gives pages a microphone only at 127.0.0.1 or localhost. Open the page at the address that Soft Ember printed.',
    );
  }
  const plain = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
  const id = chosenInput();
  try {
    return await navigator.mediaDevices.getUserMedia({ audio: id ? { ...plain, deviceId: { ideal: id } } : plain });
  } catch (error) {
    throw new NoMicrophone(reason(error));
  }
}

function reason(error: unknown): string {
  const name = error instanceof DOMException ? error.name : '';
  switch (name) {
    case 'NotAllowedError':
      return 'The browser was told not to let this page use the microphone. Allow it in the address bar, or use a file or the simulated drum.';
    case 'NotFoundError':
      return 'No microphone was found. Plug one in, or use a file or the simulated drum.';
    case 'NotReadableError':
      return 'Another program holds the microphone. Close it there and try again.';
    default:
      return `The microphone could not be opened${error instanceof Error ? `: ${error.message}` : ''}.`;
  }
}

/** Constraints are hints only: what the browser kept on. */
function bending(settings: MediaTrackSettings): string[] {
  const on = [
    settings.autoGainControl === true && 'automatic gain',
    settings.noiseSuppression === true && 'noise suppression',
    settings.echoCancellation === true && 'echo cancellation',
  ].filter((name) => name !== false);
  return on.length === 0 ? [] : [`This browser keeps ${on.join(' and ')} on, which bends decay times. Try another browser or input.`];
}
