// The drum on the bench: what was heard of it, what is on it, and what could be done.
import { api, Refusal } from '../api/client';
import type { Bench, Elsewhere, KeptDrum, Opinion, OwnWishAsked, Plans, PlanView, Struck, TakeView } from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { counted } from '../shell/figures';
import { notices } from '../shell/notices.svelte';
import { server, unlessRefused } from '../shell/server.svelte';

class Workbench {
  bench = $state.raw<Bench>();
  plans = $state.raw<Plans>();
  /** Why there are no plans. */
  plansRefused = $state<string>();
  planning = $state(false);
  /** A layout of the player's own that is being made: its trails are shown instead. */
  own = $state.raw<PlanView>();
  /** Index of the plan whose expected trails are shown. */
  planShown = $state(0);

  #benchAsked = 0;
  #plansAsked = 0;

  get plan(): PlanView | undefined {
    return this.own ?? this.plans?.plans[this.planShown];
  }

  /** Brings a drum onto the bench. */
  async choose(id: number | undefined): Promise<void> {
    if (id !== drumKit.drumId) {
      this.bench = undefined;
      this.#forgetPlans();
      notices.forgetProblems();
    }
    drumKit.drumId = id;
    if (id === undefined) this.bench = undefined;
    else await this.refresh();
  }

  /** Reads the bench and the kit again. Plans take longer: they are asked for, but not waited for. */
  async refresh(): Promise<void> {
    const id = drumKit.drumId;
    const asked = ++this.#benchAsked;
    await server.attempt(async () => {
      const [kit, bench] = await Promise.all([api.kit(), id === undefined ? undefined : api.bench(id)]);
      // A later question was asked in the meantime: its answer counts.
      if (asked !== this.#benchAsked) return;
      drumKit.kit = kit;
      this.bench = bench;
      void server.attempt(() => this.replan());
    });
  }

  /** Asks for plans where there is something to plan. */
  async replan(): Promise<void> {
    const bench = this.bench;
    const asked = ++this.#plansAsked;
    if (!bench?.open) return this.#forgetPlans();
    this.planning = true;
    try {
      const plans = await api.plans(bench.drum.id);
      if (asked !== this.#plansAsked) return;
      this.plans = plans;
      this.plansRefused = undefined;
      if (this.planShown >= plans.plans.length) this.planShown = 0;
    } catch (error) {
      if (asked !== this.#plansAsked) return;
      if (!(error instanceof Refusal)) throw error;
      this.plans = undefined;
      this.plansRefused = error.message;
    } finally {
      if (asked === this.#plansAsked) this.planning = false;
    }
  }

  #forgetPlans() {
    this.own = undefined;
    this.plans = undefined;
    this.plansRefused = undefined;
    this.planShown = 0;
    this.planning = false;
  }

  /** Says how the player wants the drum to sound, whatever is played. */
  async wantDrum({ id, ...drum }: KeptDrum, asked: OwnWishAsked, said: string): Promise<void> {
    await server.attempt(async () => {
      await api.setOwnWish(id, asked);
      notices.add(said, () => api.changeDrum(id, drum));
      await this.refresh();
    });
  }

  /** Says that the plan shown is on the drum. */
  async putOn(plan: PlanView): Promise<void> {
    const drum = drumKit.drumId;
    if (drum === undefined) return;
    await server.attempt(async () => {
      const before = this.bench?.treatment;
      const [first] = this.plans?.plans ?? [];
      const isAnother = first && first !== plan && this.plans?.plans.includes(plan);
      const treatment = await api.putOn(drum, plan);
      // Which of several is put on tells what is liked; it is on all the same where that cannot be kept.
      const told = isAnother
        ? await api
            .choose(drum, { deed: 'chose_plan', rather: plan.placements, than: first.placements, song_id: null })
            .catch(unlessRefused)
        : undefined;
      notices.add('Noted as done. Hit the drum again to check it.', async () => {
        if (told?.id != null) await api.takeOpinionBack(told.id);
        await api.changeTreatment(treatment.id, false);
        if (before) await api.changeTreatment(before.id, true);
      });
      await this.refresh();
    });
  }

  /** Says that the treatment was taken off. */
  async takeOff(id: number): Promise<void> {
    await server.attempt(async () => {
      await api.changeTreatment(id, false);
      notices.add('Taken off. The drum counts as open again.', () => api.changeTreatment(id, true));
      await this.refresh();
    });
  }

  /** Says whether a take that is in doubt counts. */
  async countTake(take: number, counted: boolean): Promise<void> {
    await server.attempt(async () => {
      await api.changeTake(take, counted);
      notices.add(counted ? 'The take counts.' : 'The take does not count.', () => api.changeTake(take, !counted));
      await this.refresh();
    });
  }

  /** Keeps strikes of a take on the drum that they were on. */
  async keepElsewhere(take: TakeView, { drum_id, name, strikes }: Elsewhere): Promise<void> {
    await server.attempt(async () => {
      const elsewhere = take.strikes.some((strike) => strikes.includes(strike.id) && strike.warnings.length > 0);
      // A take of which nothing is left is gone.
      const into = strikes.length < take.strikes.length ? take.id : null;
      await api.keepStrikes(drum_id, strikes);
      const back = () => api.keepStrikes(take.drum_id, strikes, { take: into, elsewhere });
      notices.add(`${counted(strikes.length, 'hit', 'hits')} kept on your ${name}.`, back);
      await this.refresh();
    });
  }

  /** Says what there is too much of in a cymbal, or that it is left alone. */
  async setTooMuch({ id, ...drum }: KeptDrum, too_much: KeptDrum['too_much']): Promise<void> {
    await server.attempt(async () => {
      await api.changeDrum(id, { ...drum, too_much: too_much ?? null });
      const said = {
        wash: 'Too washy: now its wash is judged.',
        brightness: 'Too bright: now what is high in it is judged.',
        loudness: 'Too loud: what helps stands under Want.',
      };
      notices.add(too_much ? said[too_much] : `${drum.name} is left to sound as it does.`, () => api.changeDrum(id, drum));
      await this.refresh();
    });
  }

  /** Says where a cymbal is struck, or how far a hi-hat is open. */
  async setStruck({ id, ...drum }: KeptDrum, struck: Struck, words: string): Promise<void> {
    await server.attempt(async () => {
      await api.changeDrum(id, { ...drum, struck });
      notices.add(`${drum.name}, ${words}.`, () => api.changeDrum(id, drum));
      await this.refresh();
    });
  }

  /** Says what the drum sounds like to its player: the wish learns from it. */
  async say(drum: number, opinion: Opinion): Promise<void> {
    await server.attempt(async () => {
      const { id } = await api.sayOpinion(drum, opinion);
      const said = { like_it: 'You like it like this.', too_dead: 'Too dead for you.', too_ringy: 'Too ringy for you.' };
      notices.add(`${said[opinion]} What is wanted follows.`, () => api.takeOpinionBack(id));
      await this.refresh();
    });
  }

  /** Back to the genre's own lengths. */
  async forgetOpinions(drum: number): Promise<void> {
    await server.attempt(async () => {
      await api.forgetOpinions(drum);
      notices.add('Forgotten. The genre’s own lengths hold again.', () => api.recallOpinions(drum));
      await this.refresh();
    });
  }

  /** Leaves a strike out, or takes it back in. */
  async setDropped(strike: number, dropped: boolean): Promise<void> {
    await server.attempt(async () => {
      await api.changeStrike(strike, dropped);
      notices.add(dropped ? 'The strike is left out.' : 'The strike counts again.', () => api.changeStrike(strike, !dropped));
      await this.refresh();
    });
  }

  /** Takes the last change back. */
  async undo(): Promise<void> {
    const last = notices.takeUndoable();
    if (!last?.undo) return;
    await server.attempt(async () => {
      await last.undo?.();
      await this.refresh();
      notices.add('Undone.');
    });
  }
}

export const workbench = new Workbench();
