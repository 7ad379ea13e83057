// A layout of the player's own: devices dragged, turned and added; what they should do follows at once.
import { api, Refusal, Unreachable } from '../api/client';
import type { DeviceKind, PlacedDevice, Placement, PlanView, ShelfDevice } from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { deviceShelf } from '../shelf/deviceShelf.svelte';
import { workbench } from '../bench/workbench.svelte';
import { notices } from '../shell/notices.svelte';
import { server } from '../shell/server.svelte';
import { shifted, within } from './geometry';

const MOST = 3;
/** Where a new device is tried, degrees: away from the player first. */
const ANGLES = [180, 225, 135, 270, 90, 315, 45, 0];
/** Where it lies between middle and hoop at first. */
const RADIUS = 0.85;

class Layout {
  open = $state(false);
  placements = $state.raw<Placement[]>([]);
  /** The last layout that could be worked out. */
  plan = $state.raw<PlanView>();
  /** Why the layout as it lies cannot be. */
  problem = $state('');
  selected = $state(0);
  busy = $state(false);

  #drumId = $state(0);
  #again = false;
  /** How often a layout was taken over whole: an answer to a question from before that no longer counts. */
  #taken = 0;
  /** Layouts before each change, to go back to. */
  #before = $state.raw<Placement[][]>([]);

  /** Devices as they lie, also while the server has not answered yet. */
  get devices(): PlacedDevice[] {
    return (this.plan?.devices ?? []).flatMap((device, i) => {
      const placement = this.placements[i];
      return placement ? [shifted(device, placement)] : [];
    });
  }

  /** Whether the drum on the bench is being laid out. */
  get active(): boolean {
    return this.open && this.#drumId === drumKit.drumId;
  }

  get canUndo(): boolean {
    return this.#before.length > 0;
  }

  /** Whether it has as many devices as a treatment may; a turn of every rod comes on top of them. */
  get full(): boolean {
    return this.placements.filter((placement) => placement.device !== 'rods_turned').length >= MOST;
  }

  /** What of the shelf is left for the drum on the bench. */
  get spare(): ShelfDevice[] {
    const kind = drumKit.drum?.drum.kind;
    if (!kind) return [];
    return deviceShelf.devices.filter((item) => {
      const used = this.placements.filter((placement) => placement.device === item.kind).length;
      return item.kinds.includes(kind) && used < item.count && !item.ruled_out;
    });
  }

  /** What of it may be added to what lies there already. */
  get addable(): ShelfDevice[] {
    return this.spare.filter((item) => !this.full || item.kind === 'rods_turned');
  }

  /** Begins with `plan`, or what is on the drum, or the plan shown. */
  begin(plan?: PlanView) {
    const drum = drumKit.drumId;
    if (drum === undefined || !workbench.bench?.open) return;
    const from = plan ?? workbench.bench.treatment?.plan ?? workbench.plans?.plans[workbench.planShown];
    this.#drumId = drum;
    this.#before = [];
    this.#taken++;
    this.placements = from?.placements ?? [];
    this.plan = from;
    this.problem = '';
    this.selected = 0;
    this.open = true;
    workbench.own = from;
    notices.said = 'Lay it out yourself. Arrow keys move the device that is chosen.';
    if (from) void this.#ask();
  }

  close() {
    this.open = false;
    workbench.own = undefined;
  }

  toggle() {
    if (this.active) this.close();
    else this.begin();
  }

  /** Says that the layout is on the drum. */
  async putOn(): Promise<void> {
    if (!this.plan || this.problem !== '' || this.placements.length === 0) return;
    await workbench.putOn({ ...this.plan, offer: 'own', placements: this.placements });
    this.close();
  }

  /** Remembers the layout, so that what follows can be undone as one change. */
  mark() {
    if (this.#before.at(-1) !== this.placements) this.#before = [...this.#before, this.placements];
  }

  async undo(): Promise<void> {
    // Taking hold of a device without moving it changed nothing.
    const at = this.#before.findLastIndex((before) => before !== this.placements);
    const before = this.#before[at];
    this.#before = this.#before.slice(0, Math.max(at, 0));
    if (before) await this.#set(before);
  }

  move(index: number, at: { radius: number; angle_deg: number }) {
    const [device, from] = [this.devices[index], this.placements[index]];
    if (!device || !from) return;
    const to = within(device, at);
    const placement = {
      ...from,
      angle_deg: device.has_angle ? to.angle_deg : from.angle_deg,
      radius: device.has_radius ? to.radius : from.radius,
    };
    this.placements = this.placements.with(index, placement);
    void this.#ask();
  }

  /** Turns and shifts the chosen device by steps. */
  nudge(turnDeg: number, inwards: number) {
    const from = this.placements[this.selected];
    if (!from) return;
    this.mark();
    this.move(this.selected, { radius: from.radius - inwards, angle_deg: (from.angle_deg + turnDeg + 360) % 360 });
  }

  setAmount(index: number, amount: number) {
    const from = this.placements[index];
    if (!from) return;
    this.mark();
    void this.#set(this.placements.with(index, { ...from, amount }));
  }

  /** Lays it on the drum's other head, from outside, or back on the batter head. */
  setOtherHead(index: number, other_head: boolean) {
    const from = this.placements[index];
    if (!from) return;
    this.mark();
    void this.#set(this.placements.with(index, { ...from, other_head }));
  }

  /** Exchanges it for another device in the same place. */
  exchange(index: number, device: DeviceKind) {
    const from = this.placements[index];
    if (!from) return;
    this.mark();
    const { radius, angle_deg, other_head } = from;
    void this.#set(this.placements.with(index, { device, amount: 0, radius, angle_deg, other_head: other_head ?? false }));
  }

  remove(index: number) {
    this.mark();
    void this.#set(this.placements.toSpliced(index, 1));
  }

  /** Adds a device at the first place where it does not lie on another. */
  async add(device: DeviceKind): Promise<void> {
    const tuning = deviceShelf.devices.some((item) => item.kind === device && item.tuning);
    let refused = '';
    for (const angle_deg of tuning ? [0] : ANGLES) {
      const trial = [...this.placements, { device, amount: 0, radius: RADIUS, angle_deg }];
      try {
        const plan = await api.layOut(this.#drumId, trial, false);
        this.mark();
        this.#take(trial, plan);
        this.selected = trial.length - 1;
        return;
      } catch (error) {
        if (error instanceof Unreachable || !(error instanceof Refusal)) return void server.attempt(() => Promise.reject(error));
        refused = error.message;
      }
    }
    notices.add(tuning ? refused : `There is no room left for it. ${refused}`, undefined, 'problem');
  }

  /** Lets places and amounts be changed for the better. */
  async improve(): Promise<void> {
    const before = this.plan?.cost;
    const asked = this.placements;
    this.busy = true;
    await server.attempt(async () => {
      const plan = await api.layOut(this.#drumId, asked, true);
      // It was changed by hand or left in the meantime: the player's own layout counts.
      if (!this.active || asked !== this.placements) return;
      if (before !== undefined && plan.cost >= before - 0.01) {
        notices.add('Nothing near this layout is better.');
        return;
      }
      this.mark();
      this.#take(plan.placements, plan);
      notices.said = `Improved. ${plan.why}`;
    });
    this.busy = false;
    if (this.#again) await this.#ask();
  }

  /** Works the layout out again: what is wanted, or what is known of the drum, may have changed. */
  refresh() {
    if (this.active && this.placements.length > 0) void this.#ask();
  }

  #take(placements: Placement[], plan: PlanView | undefined) {
    this.#taken++;
    this.placements = placements;
    this.plan = plan;
    workbench.own = plan;
    this.problem = '';
    this.selected = Math.max(0, Math.min(this.selected, placements.length - 1));
  }

  async #set(placements: Placement[]): Promise<void> {
    if (placements.length === 0) return this.#take([], undefined);
    this.problem = '';
    await server.attempt(async () => {
      try {
        this.#take(placements, await api.layOut(this.#drumId, placements, false));
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        this.#before = this.#before.slice(0, -1);
        this.problem = error.message;
        notices.said = error.message;
      }
    });
  }

  /** Asks what the layout does; while an answer is out, only the newest layout is asked for next. */
  async #ask(): Promise<void> {
    if (this.busy) {
      this.#again = true;
      return;
    }
    this.busy = true;
    do {
      this.#again = false;
      const [asked, taken, drum] = [this.placements, this.#taken, this.#drumId];
      const counts = () => this.active && taken === this.#taken && drum === this.#drumId;
      await server.attempt(async () => {
        try {
          const plan = await api.layOut(drum, asked, false);
          if (!counts()) return;
          this.plan = plan;
          workbench.own = plan;
          this.problem = '';
        } catch (error) {
          if (!(error instanceof Refusal)) throw error;
          if (counts()) this.problem = error.message;
        }
      });
    } while (this.#again);
    this.busy = false;
  }
}

export const layout = new Layout();
