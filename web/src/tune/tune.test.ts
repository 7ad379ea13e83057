import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { served } from '../api/served';
import type { KeptRound, Tuning } from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { notices } from '../shell/notices.svelte';
import { server } from '../shell/server.svelte';
import { view } from '../shell/view.svelte';
import { tune } from './tune.svelte';
import { guide } from './guide.svelte';
import { tapping } from './tapping.svelte';

const pitch = (lug: number) => ({ lug, hz: 210, note: { name: 'G#3', cents: 10 }, sd_cents: 1 });

function round(heard: number, turned: number[] | null = null): KeptRound {
  const lugs = Array.from({ length: heard }, (_, lug) => pitch(lug));
  const pitches = { lugs, mean_hz: 210, spread_cents: 20, split: null, too_uneven: false, fault: null, sounds_like_lug: null };
  return { id: 7, drum_id: 2, side: 'batter', source: 'simulated', begun_at: 1, seq: 1, lugs: 6, pitches, turned };
}

function head(rounds: KeptRound[], turns: { lug: number; eighths: number }[] | null = null): Tuning {
  const next = turns && { turns, expected_hz: [], sd_cents: 5, expected_spread_cents: 6, done: turns.length === 0, cautions: [] };
  return {
    drum: { id: 2, name: 'Rack tom', kind: 'tom', lugs: 6 },
    side: 'batter',
    head: { film_mil: 10 },
    lugs: 6,
    order: [0, 3, 1, 4, 2, 5],
    wanted_hz: null,
    rounds,
    next,
  } as unknown as Tuning;
}

beforeEach(() => {
  Object.assign(drumKit, { drumId: 2 });
  Object.assign(notices, { list: [] });
  Object.assign(server, { reachable: true });
  Object.assign(tune, { side: 'batter', tuning: undefined });
});

afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe('the step that comes next', () => {
  const words = (tuning: Tuning) => {
    tune.tuning = tuning;
    return tune.step?.words;
  };

  it('follows how far the head is', () => {
    expect(words(head([]))).toBe('Tap a round');
    expect(words(head([round(3)]))).toBe('Go on tapping');
    expect(words(head([round(6)], [{ lug: 1, eighths: 2 }]))).toBe('Turned as told');
    expect(words(head([round(6, [0, 2, 0, 0, 0, 0])]))).toBe('Tap a round again');
    expect(words(head([round(6)], []))).toBe('Tap a round again');
  });

  it('is none on a head that is off', () => {
    expect(words({ ...head([]), head: null })).toBeUndefined();
  });

  it('taps where there is something to hear', () => {
    const begin = vi.spyOn(tapping, 'begin').mockImplementation(() => {});
    tune.tuning = head([round(2)]);
    tune.step?.run();
    expect(begin).toHaveBeenCalledWith(2, 'batter', {});
  });
});

describe('turning', () => {
  it('reports every rod, and takes the report back', async () => {
    tune.tuning = head(
      [round(6)],
      [
        { lug: 4, eighths: -1 },
        { lug: 1, eighths: 3 },
      ],
    );
    expect(tune.advised()).toEqual([0, 3, 0, 0, -1, 0]);
    const turned = head([round(6, [0, 3, 0, 0, -1, 0])]);
    const sent = served({ 'PUT /rounds/7/turned': turned });
    await tune.turned(tune.advised());
    expect(sent[0]).toEqual({ key: 'PUT /rounds/7/turned', body: { eighths: [0, 3, 0, 0, -1, 0] } });
    expect(tune.step?.words).toBe('Tap a round again');
    await notices.list.at(-1)?.undo?.();
    expect(sent.at(-1)?.body).toEqual({ eighths: null });
  });

  it('notes a wish once, and says how to undo it', async () => {
    tune.tuning = head([round(6)], []);
    const sent = served({ 'PUT /drums/2/tuning/wish': { ...head([round(6)], []), wanted_hz: 220 } });
    await tune.setWanted(220);
    await tune.setWanted(220);
    expect(sent.map((each) => each.body)).toEqual([{ side: 'batter', wanted_hz: 220 }]);
    expect(notices.list.at(-1)?.undo).toBeDefined();
  });

  it('goes to the lower head for a wish of it', async () => {
    tune.tuning = head([round(6)], []);
    const lower: Tuning = { ...head([]), side: 'lower' };
    const sent = served({ 'GET /drums/2/tuning?side=lower': lower, 'PUT /drums/2/tuning/wish': { ...lower, wanted_hz: 240 } });
    await tune.wishLower(240);
    expect(sent.at(-1)?.body).toEqual({ side: 'lower', wanted_hz: 240 });
  });
});

describe('heads', () => {
  const newHead = {
    film_mil: 14,
    plies: 2,
    coated: true,
    edge_ring: false,
    dot: false,
    oil: false,
    inside_out: false,
    patch: false,
    played_h: 0,
  };
  const nothing = { drums: [], tonight: {}, demo: false };

  it('puts another one on and takes it back', async () => {
    tune.tuning = head([round(6)], []);
    drumKit.drumId = undefined;
    const sent = served({ 'POST /drums/2/head': { id: 31 }, 'DELETE /head-changes/31': {}, 'GET /kit': nothing });
    expect(await tune.putOnHead(newHead)).toBe(true);
    expect(sent[0]).toEqual({ key: 'POST /drums/2/head', body: { side: 'batter', head: newHead } });
    await notices.list.at(-1)?.undo?.();
    expect(sent.some(({ key }) => key === 'DELETE /head-changes/31')).toBe(true);
  });

  it('says that it is seated once the guide was gone through, and not when it was closed', async () => {
    const steps = [{ title: 'Centre', detail: 'D.', lugs: [], caution: null, seconds: 5 }];
    const sent = served({
      'GET /drums/2/tuning/seating?side=batter&task=reseat': steps,
      'POST /drums/2/tuning/seated?side=batter': {},
      'GET /drums/2/tuning?side=batter': head([]),
    });
    const seated = () => sent.filter(({ key }) => key.startsWith('POST')).length;
    tune.tuning = head([round(6)], []);
    await tune.seat('reseat');
    expect([guide.open, guide.title]).toEqual([true, 'Seating']);
    guide.close();
    expect(seated()).toBe(0);
    await tune.seat('reseat');
    guide.forward();
    await vi.waitFor(() => expect(seated()).toBe(1));
  });

  it('sends to the bench while rods are let down on purpose', () => {
    tune.tuning = { ...head([round(6)], [{ lug: 1, eighths: 2 }]), uneven: true };
    expect(tune.step?.words).toBe('Hear it on the bench');
    tune.step?.run();
    expect(view.place).toBe('bench');
  });
});
