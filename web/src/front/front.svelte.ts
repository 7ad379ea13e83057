// The drum's other end: what closing it otherwise would do, and the hole that is being placed.
import { api, type HoleAsked, Refusal } from '../api/client';
import type { Front, FrontPage, FrontWay, PlaceFound, Placement, Port } from '../api/types';
import { listening } from '../listening/listen.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { server } from '../shell/server.svelte';
import { workbench } from '../bench/workbench.svelte';
import { notices } from '../shell/notices.svelte';
import { view } from '../shell/view.svelte';
import { holeQuery } from './say';

type Beater = 'off_the_head' | 'buried';
type Cutter = 'knife' | 'rotary';
export type Part = 'ways' | 'fill' | 'tune' | 'beater' | 'cut';

const KEPT = 'ember-front';
const UNPROCESSABLE = 422;

class Fronts {
  page = $state.raw<FrontPage>();
  refused = $state('');
  loading = $state(false);
  /** Which part is looked at; none until one was chosen. */
  part = $state<Part>();
  beater = $state<Beater>('off_the_head');
  microphone = $state(false);
  cutter = $state<Cutter>('knife');
  /** What is laid in besides, in every way and tuning. */
  laid = $state.raw<Placement>();
  /** The song's key, or the bass's lowest notes. */
  bass = $state('');
  /** Why what was written for the bass does not count. */
  bassRefused = $state('');
  /** The hole that is being placed. */
  port = $state<Port>({ diameter_in: 5, radius: 0.6, angle_deg: 60 });
  ringMm = $state(20);
  logoMm = $state(0);
  side = $state<'inside' | 'outside'>('inside');
  paper = $state<'a4' | 'letter'>('a4');
  place = $state.raw<PlaceFound>();
  placeRefused = $state('');

  #asked = 0;
  #placeAsked = 0;
  #portOf: number | undefined;

  constructor() {
    try {
      const kept = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as { beater?: Beater; microphone?: boolean };
      this.beater = kept.beater === 'buried' ? 'buried' : 'off_the_head';
      this.microphone = kept.microphone === true;
    } catch {
      // What was kept is no use; what is usual stands.
    }
  }

  /** Reads what is known of the drum on the bench. */
  async load(): Promise<void> {
    const drum = drumKit.drumId;
    if (drum === undefined) return;
    const asked = ++this.#asked;
    if (this.page?.drum.id !== drum) this.page = this.laid = undefined;
    this.loading = true;
    await server.attempt(async () => {
      try {
        const playing = {
          beater: this.beater,
          microphone: this.microphone,
          cutter: this.cutter,
          bass: this.bassRefused ? '' : this.bass,
          placements: this.laid ? [this.laid] : [],
        };
        const page = await api.front(drum, playing);
        if (asked !== this.#asked) return;
        this.page = page;
        this.refused = '';
        this.#usualHole(page);
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        if (asked !== this.#asked) return;
        // What was written for the bass is all of the question that can be wrong: the page stands.
        if (error.status === UNPROCESSABLE && this.page) this.bassRefused = error.message;
        else [this.page, this.refused] = [undefined, error.message];
      }
    });
    if (asked === this.#asked) this.loading = false;
  }

  /** The hole to begin with: the one advised, or the usual one for the drum's size. */
  #usualHole(page: FrontPage) {
    if (this.#portOf === page.drum.id) return;
    this.#portOf = page.drum.id;
    const holes = page.ways.flatMap((way) => (way.front.state === 'ported' && way.front.ports.length === 1 ? way.front.ports : []));
    const usual = page.drum.diameter_in < 18 ? 4 : 5;
    const advised = page.advice.hole?.state === 'ported' ? page.advice.hole.ports[0] : undefined;
    const port = advised ?? holes.find((hole) => hole.diameter_in === usual) ?? holes[0];
    if (port) this.port = { ...port };
    void this.check();
  }

  /** How the player plays changes what is advised. */
  play(change: { beater?: Beater; microphone?: boolean; cutter?: Cutter }) {
    Object.assign(this, change);
    localStorage.setItem(KEPT, JSON.stringify({ beater: this.beater, microphone: this.microphone }));
    void this.load();
  }

  /** Lays something in besides, or nothing. */
  lay(placement: Placement | undefined) {
    this.laid = placement;
    void this.load();
  }

  /** Holds the drum against what the bass plays; what cannot be read is said beside it, and nothing else is lost. */
  async against(bass: string): Promise<void> {
    this.bass = bass;
    this.bassRefused = '';
    await this.load();
  }

  get hole(): HoleAsked {
    return { ...holeQuery(this.port, this.ringMm, this.logoMm), side: this.side, paper: this.paper };
  }

  /** Checks where the hole is. */
  async check(): Promise<void> {
    const drum = drumKit.drumId;
    if (drum === undefined) return;
    const asked = ++this.#placeAsked;
    await server.attempt(async () => {
      try {
        const place = await api.checkHole(drum, this.hole);
        if (asked === this.#placeAsked) [this.place, this.placeRefused] = [place, ''];
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        if (asked === this.#placeAsked) [this.place, this.placeRefused] = [undefined, error.message];
      }
    });
  }

  move(change: Partial<Port>) {
    this.port = { ...this.port, ...change };
    void this.check();
  }

  /** Goes on to where a hole like that of `way` is placed. */
  placeHole(way: FrontWay) {
    if (way.front.state !== 'ported') return;
    const port = way.front.ports[0];
    if (port) this.port = { ...port };
    this.part = 'cut';
    void this.check();
  }

  /** Says that the drum is closed as `front` says for a while, and listens to it. */
  async try(front: Front, laid: Placement[] = []): Promise<void> {
    const drum = drumKit.drumId;
    if (drum === undefined) return;
    await server.attempt(async () => {
      const before = workbench.bench?.treatment;
      const treatment = await api.tryFront(drum, front, laid);
      notices.add('Noted as a trial. Strike the drum a few times; then take it back.', async () => {
        await api.changeTreatment(treatment.id, false);
        if (before) await api.changeTreatment(before.id, true);
        await this.load();
      });
      await workbench.refresh();
      view.place = 'bench';
      listening.begin(drum, listening.hearing);
    });
  }

  async decline(declined: boolean): Promise<void> {
    const drum = drumKit.drumId;
    if (drum === undefined) return;
    await server.attempt(async () => {
      await api.declineFrontTrial(drum, declined);
      await this.load();
      if (declined) notices.add('The trial is left out.', () => this.decline(false));
    });
  }

  /** Says that the drum is closed as `front` says from now on. */
  async change(front: Front, said: string): Promise<void> {
    const drum = drumKit.drumId;
    if (drum === undefined) return;
    await server.attempt(async () => {
      const change = await api.changeFront(drum, front);
      notices.add(said, async () => {
        await api.takeHeadBack(change.id);
        await this.load();
      });
      await workbench.refresh();
      await this.load();
    });
  }
}

export const fronts = new Fronts();
