import { beforeEach, describe, expect, it } from 'vitest';
import type { Bench, DrumState, DrumStanding, Kit, Plans, ShelfDevice } from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { deviceShelf } from '../shelf/deviceShelf.svelte';
import { workbench } from './workbench.svelte';
import { view } from '../shell/view.svelte';
import { next } from './next.svelte';

const READY: DrumStanding[] = ['fits', 'nearly', 'left_alone', 'in_case'];
const drum = (id: number, name: string, standing: DrumStanding, more: object = {}) =>
  ({ drum: { id, name, ...more }, standing, ready: READY.includes(standing) }) as unknown as DrumState;

function kit(...drums: DrumState[]) {
  drumKit.kit = { drums } as unknown as Kit;
  drumKit.drumId = drums[0]?.drum.id;
}

function bench(change: object) {
  workbench.bench = { open: null, treatment: null, found: null, ways_to_strike: [], ...change } as unknown as Bench;
}

function plans(reach: string, ...words: string[]) {
  workbench.plans = {
    reach,
    plans: words.map((each) => ({ words: each, placements: [{ device: each.replace('set of slack lugs', 'slack_lugs') }] })),
  } as unknown as Plans;
}

describe('the next step', () => {
  beforeEach(() => {
    Object.assign(drumKit, { kit: undefined, drumId: undefined });
    Object.assign(deviceShelf, { devices: [] });
    Object.assign(workbench, { bench: undefined, plans: undefined, plansRefused: undefined, planning: false, planShown: 0 });
  });

  it('waits for the kit, then asks for a drum', () => {
    expect(next.step.action).toBeUndefined();
    kit();
    expect(next.step.text).toBe('Add your first drum.');
  });

  it('is to hit a drum that was not measured', () => {
    kit(drum(1, 'Snare', 'unmeasured'));
    bench({});
    expect(next.step).toMatchObject({ text: 'Hit the Snare 5 times.', action: 'Listen' });
  });

  it('is to put on the plan that is shown', () => {
    kit(drum(1, 'Snare', 'off'));
    bench({ open: {} });
    plans('reached', 'gel pad and tape', '2 gel pads');
    expect(next.step).toMatchObject({ text: 'Put on: gel pad and tape.', action: 'It is on' });
    workbench.planShown = 1;
    expect(next.step.text).toBe('Put on: 2 gel pads.');
    plans('reached', 'set of slack lugs');
    workbench.planShown = 0;
    expect(next.step.text).toBe('Do: set of slack lugs.');
  });

  it('is to hit it again once something is on', () => {
    kit(drum(1, 'Snare', 'unchecked'));
    bench({ open: {}, treatment: {} });
    expect(next.step).toMatchObject({ text: 'Hit the Snare 5 times again.', action: 'Listen' });
  });

  it('is to hit it again where a take may not be what it says it is', () => {
    kit(drum(1, 'Snare', 'unchecked'));
    const sentence = 'This sounds like your drum with nothing on it.';
    bench({ open: {}, treatment: {}, found: {}, in_doubt: { take_id: 3, doubt: 'nothing_on', sentence } });
    expect(next.step).toMatchObject({ text: sentence, action: 'Listen' });
  });

  it('goes on to the next drum that is not ready, around the kit', () => {
    kit(drum(1, 'Snare', 'off'), drum(2, 'Tom', 'fits'), drum(3, 'Kick', 'unmeasured'));
    drumKit.drumId = 3;
    bench({ open: {} });
    plans('nothing_needed');
    expect(next.step).toMatchObject({ text: 'It fits as it is. Next: Snare.', action: 'To the Snare' });
    drumKit.drumId = 1;
    bench({ open: {}, treatment: {}, found: { assessment: { fits: true } } });
    expect(next.step.text).toBe('It fits now. Next: Kick.');
  });

  it('never says that the whole kit fits over a drum that does not', () => {
    kit(drum(1, 'Snare', 'off'), drum(2, 'Tom', 'fits'));
    bench({ open: {}, treatment: {}, found: { assessment: { fits: false } } });
    expect(next.step.text).toBe('Checked. The Snare does not fit yet.');
    expect(next.step.action).toBeUndefined();
  });

  it('asks nothing of what is left alone, plays along or stays in its case', () => {
    kit(
      drum(1, 'Ride', 'left_alone'),
      drum(2, 'Tom', 'fits'),
      drum(3, 'Other snare', 'in_case'),
      drum(4, 'Cowbell', 'left_alone', { plays_along: true }),
    );
    bench({});
    expect(next.step.text).toBe('Left to sound as it does. The whole kit fits tonight.');
    drumKit.drumId = 4;
    expect(next.step.text).toBe('It plays along, and is not measured. The whole kit fits tonight.');
    drumKit.drumId = 3;
    expect(next.step).toMatchObject({ text: 'The Other snare stays in its case.', action: 'Set it up' });
  });

  it('asks for strikes again after rods were turned', () => {
    kit(drum(1, 'Tom', 'unchecked'));
    bench({ open: {}, turned_since: true });
    expect(next.step).toMatchObject({ text: 'Hit the Tom 5 times again.', action: 'Listen' });
  });

  it('ends when the whole kit fits', () => {
    kit(drum(1, 'Snare', 'fits'), drum(2, 'Tom', 'fits'));
    bench({ open: {} });
    plans('nothing_needed');
    expect(next.step).toMatchObject({ text: 'It fits as it is. The whole kit fits tonight.', detail: 'Play.' });
    expect(next.step.action).toBeUndefined();
  });

  it('says why there is no plan, and leads to the shelf', () => {
    kit(drum(1, 'Snare', 'off'));
    bench({ open: {} });
    workbench.plansRefused = 'No clear body was found.';
    expect(next.step).toMatchObject({ detail: 'No clear body was found.', action: 'Open the shelf' });
    next.step.run();
    expect(view.place).toBe('shelf');
  });

  it('asks what there is before it says that nothing helps', () => {
    kit(drum(1, 'Snare', 'off'));
    bench({ open: {} });
    plans('nothing_helps');
    const thing = (count: number, tuning: boolean) => ({ count, tuning }) as unknown as ShelfDevice;
    deviceShelf.devices = [thing(0, false), thing(1, true)];
    expect(next.step.text).toBe('What have you got to put on it?');
    deviceShelf.devices = [thing(1, false), thing(1, true)];
    expect(next.step.text).toBe('Nothing on the shelf helps here.');
  });
});
