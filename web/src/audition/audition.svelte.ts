// Hear it first: versions of one drum that sound in step, so that one key changes between them at the same strike.
import { api } from '../api/client';
import type { Audition, AuditionVersion, Blow, DecayProfile, PlanView, WhatIf } from '../api/types';
import { server } from '../shell/server.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { dialogs } from '../shell/dialogs.svelte';
import { workbench } from '../bench/workbench.svelte';
import { looped, loudest, type Part } from './loop';

/** Time before the hit in every version, s: the server gives so much along. */
const LEAD_S = 0.02;
/** Time in which one version passes into another, s. */
const FADE_S = 0.012;
/** Other drums stand so far behind, dB. */
const BEHIND_DB = -9;
/** A strike alone comes again after this, s. */
const ALONE_S = 2;
/** The loudest sample of what is played. */
const FULL = 0.9;

export type Way = 'alone' | 'groove';

/** What can be heard first: devices, the drum's other end closed otherwise or tuned by so many semitones, or another blow than the measured one. */
export type Meant = Pick<PlanView, 'placements' | 'front' | 'title' | 'expected'> & { tuned?: number; blow?: { from: Blow; to: Blow } };

/** What is meant as the server is asked it. */
export function asked(meant: Meant | undefined): WhatIf {
  return {
    placements: meant?.placements ?? [],
    front: meant?.front ?? null,
    tuned_semitones: meant?.tuned ?? null,
    blow: meant?.blow?.to ?? null,
    from: meant?.blow?.from ?? null,
  };
}

/** Nothing but what is. */
const NOTHING = asked(undefined);

class Hearing {
  audition = $state.raw<Audition>();
  /** Title of what is heard. */
  title = $state('');
  /** What the devices should make of the drum. */
  expected = $state.raw<DecayProfile>();
  at = $state(0);
  way = $state<Way>('alone');
  playing = $state(false);
  loading = $state(false);
  /** Whether the other drums of the kit play along in the groove. */
  along = $state(true);

  #drumId = 0;
  #meant: WhatIf = NOTHING;
  #asked = 0;
  #sounds = new Map<string, Promise<ArrayBuffer>>();
  #context: AudioContext | undefined;
  #sources: { source: AudioBufferSourceNode; gain: GainNode }[] = [];

  get version(): AuditionVersion | undefined {
    return this.audition?.versions[this.at];
  }

  /** Hands a version out as a WAV file called `name`. */
  async save(version: AuditionVersion['version'], name: string): Promise<void> {
    await server.attempt(async () => {
      const bytes = await this.#bytes(this.#drumId, version, this.#meant);
      const address = URL.createObjectURL(new Blob([bytes], { type: 'audio/wav' }));
      const link = Object.assign(document.createElement('a'), { href: address, download: name });
      link.click();
      // The browser has taken it by then.
      setTimeout(() => URL.revokeObjectURL(address), 60_000);
    });
  }

  /** Opens on the drum on the bench: what is on it, or the plan shown. */
  async open(plan?: Meant): Promise<void> {
    const drum = drumKit.drumId;
    if (drum === undefined || this.loading) return;
    const on = workbench.bench?.treatment;
    const of = plan ?? on?.plan ?? workbench.plan;
    this.loading = true;
    const ready = await server.attempt(async () => {
      this.#drumId = drum;
      this.#meant = asked(of);
      this.#sounds.clear();
      // Sounds are fetched beside what is said about them; what cannot be fetched is told when it is to be played.
      const known = (['open', of && 'expected', workbench.bench?.found && 'found'] as const).filter((version) => version != null);
      for (const version of known) this.#bytes(drum, version, this.#meant).catch(() => {});
      const audition = await api.audition(drum, this.#meant);
      this.audition = audition;
      this.title = on && !plan ? 'What is on the drum' : (of?.title ?? 'Wide open');
      this.expected = of?.expected.profile;
      // A plan is opened for what it promises, a treatment for what came of it.
      const first = plan ? audition.versions.findIndex(({ version }) => version === 'expected') : audition.versions.length - 1;
      this.at = Math.max(0, first);
    });
    this.loading = false;
    if (!ready) return;
    dialogs.show('hear');
    await this.play();
  }

  /** Plays all versions in step, of which one is heard. */
  async play(): Promise<void> {
    const audition = this.audition;
    if (!audition) return;
    this.#hush();
    const asked = ++this.#asked;
    this.loading = true;
    await server.attempt(async () => {
      const context = this.#ready();
      await context.resume();
      const backing = this.way === 'groove' && this.along ? audition.backing : [];
      const [own, others] = await Promise.all([
        Promise.all(audition.versions.map(({ version }) => this.#sound(this.#drumId, version, this.#meant))),
        Promise.all(backing.map(({ drum_id, version }) => this.#sound(drum_id, version, NOTHING))),
      ]);
      // Another way was chosen, or it was closed, in the meantime.
      if (asked !== this.#asked) return;
      const behind: Part[] = others.map((buffer, i) => ({
        samples: buffer.getChannelData(0),
        hits: (backing[i]?.hits ?? []).map((hit) => ({ ...hit, level_db: hit.level_db + BEHIND_DB })),
        lead: LEAD_S,
      }));
      const alone = this.way === 'alone';
      const seconds = alone ? ALONE_S : audition.groove_s;
      const hits = alone ? [{ at_s: LEAD_S, level_db: 0 }] : audition.hits;
      const loops = own.map((buffer) =>
        looped([{ samples: buffer.getChannelData(0), hits, lead: LEAD_S }, ...behind], seconds, context.sampleRate),
      );
      const level = FULL / Math.max(loudest(loops), 1e-6);
      const begin = context.currentTime + 0.05;
      this.#sources = loops.map((samples, i) => {
        const buffer = context.createBuffer(1, samples.length, context.sampleRate);
        buffer.copyToChannel(samples, 0);
        const source = new AudioBufferSourceNode(context, { buffer, loop: true });
        const master = new GainNode(context, { gain: Math.min(level, 4) });
        const gain = new GainNode(context, { gain: i === this.at ? 1 : 0 });
        source.connect(gain).connect(master).connect(context.destination);
        source.start(begin);
        return { source, gain };
      });
      this.playing = true;
    });
    if (asked === this.#asked) this.loading = false;
  }

  /** Lets another version be heard, at the same strike. */
  choose(at: number) {
    const count = this.audition?.versions.length ?? 0;
    if (count === 0) return;
    this.at = (at + count) % count;
    const now = this.#context?.currentTime ?? 0;
    this.#sources.forEach(({ gain }, i) => gain.gain.setTargetAtTime(i === this.at ? 1 : 0, now, FADE_S / 3));
  }

  setWay(way: Way) {
    this.way = way;
    void this.play();
  }

  setAlong(along: boolean) {
    this.along = along;
    void this.play();
  }

  stop() {
    this.#asked++;
    this.loading = false;
    this.#hush();
  }

  toggle() {
    if (this.playing) this.stop();
    else void this.play();
  }

  #hush() {
    for (const { source } of this.#sources) source.stop();
    this.#sources = [];
    this.playing = false;
  }

  #ready(): AudioContext {
    return (this.#context ??= new AudioContext());
  }

  async #sound(drum: number, version: AuditionVersion['version'], what: WhatIf): Promise<AudioBuffer> {
    const bytes = await this.#bytes(drum, version, what);
    // Decoding takes the bytes away.
    return this.#ready().decodeAudioData(bytes.slice(0));
  }

  #bytes(drum: number, version: AuditionVersion['version'], what: WhatIf): Promise<ArrayBuffer> {
    const key = `${drum} ${version} ${what === NOTHING ? '' : 'meant'}`;
    const known = this.#sounds.get(key);
    if (known) return known;
    const sound = api.auditionSound(drum, version, what);
    this.#sounds.set(key, sound);
    // One that failed is asked for again the next time.
    sound.catch(() => this.#sounds.delete(key));
    return sound;
  }
}

export const hearing = new Hearing();
