import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { Kit, ListenEvent, StrikeView } from '../api/types';
import { workbench } from '../bench/workbench.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { notices } from '../shell/notices.svelte';
import { listening } from './listen.svelte';
import { Live, type LiveOwner } from './live';

let owner: LiveOwner;
const live = { stop: vi.fn(), close: vi.fn() };
const addresses: string[] = [];
const drums = ['Deck snare', 'Rack tom', 'Kick'].map((name, i) => ({ drum: { id: i + 1, name } }));

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal('location', { protocol: 'http:', host: 'here' });
  addresses.length = 0;
  vi.spyOn(Live, 'begin').mockImplementation((_, given) => {
    owner = given;
    addresses.push(given.address());
    return live as unknown as Live;
  });
  vi.spyOn(workbench, 'choose').mockResolvedValue();
  vi.spyOn(workbench, 'refresh').mockResolvedValue();
  drumKit.kit = { drums } as unknown as Kit;
  notices.list = [];
  Object.assign(listening, { dynamics: false, sound: false });
});

afterEach(() => {
  listening.close();
  vi.useRealTimers();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const done = (complete: boolean): ListenEvent => ({ event: 'done', take: null, good: 5, rejected: 0, complete });
const strike = (more: Partial<StrikeView> = {}) =>
  ({ advice: [], quality: { score: 1, known: true, why: '' }, ...more }) as unknown as StrikeView;
const called = () => vi.advanceTimersByTimeAsync(2000);

it('walks through the kit drum by drum and ends by itself', async () => {
  listening.beginKit('simulated');
  for (const [i, { drum }] of drums.entries()) {
    expect([listening.stage, listening.walk?.at, notices.said]).toEqual(['announced', i, `Now the ${drum.name}.`]);
    expect(addresses.length, 'not yet listening').toBe(i);
    await called();
    expect(addresses[i]).toContain(`/drums/${drum.id}/listen`);
    owner.event({ event: 'ready' });
    expect(listening.stage).toBe('listening');
    owner.event(done(true));
  }
  expect([listening.open, listening.walk, notices.list.at(-1)?.text]).toEqual([false, undefined, 'The whole kit: 3 of 3 drums heard.']);
});

it('leaves out a drum that is skipped, and stops where it is stopped', async () => {
  listening.beginKit('simulated');
  listening.skip();
  expect(listening.walk?.at, 'skipped while it was called').toBe(1);
  await called();
  expect(addresses).toHaveLength(1);
  owner.event({ event: 'ready' });
  listening.skip();
  expect(listening.walk?.at, 'skipped while it was listened to').toBe(2);
  await called();
  owner.event({ event: 'ready' });
  listening.stop();
  owner.event(done(false));
  expect(notices.list.at(-1)?.text).toBe('Stopped: 0 of 3 drums heard. What was heard is kept.');
  expect(listening.open).toBe(false);
});

it('does not begin to listen once it was closed while a drum was called', async () => {
  listening.beginKit('simulated');
  listening.stop();
  await called();
  expect([addresses, listening.open]).toEqual([[], false]);
});

it('asks softly, then harder, and says which other drum a strike sounds like', () => {
  listening.dynamics = true;
  listening.begin(2, 'simulated');
  expect(addresses[0]).toMatch(/strikes=3&dynamics=true/);
  owner.event({ event: 'ready' });
  expect([listening.asked, listening.each]).toEqual(['soft', 3]);
  owner.event({ event: 'strike', strike: strike(), good: 0, rejected: 0, asked: 'medium', sounds_like: null });
  expect([listening.asked, listening.good]).toEqual(['medium', 0]);
  const unclear = strike({ quality: { score: 0, known: false, why: 'It sounds for anything from 0.1 to 0.9 s.' } });
  owner.event({ event: 'strike', strike: unclear, good: 1, rejected: 0, asked: 'medium', sounds_like: null });
  expect(notices.said).toBe('Heard, but it is not clear how long it sounds, 1 of 3.');
  const other = strike({ advice: ['This sounds like another drum of your kit.'] });
  owner.event({ event: 'strike', strike: other, good: 0, rejected: 1, asked: 'medium', sounds_like: 'Kick' });
  expect([listening.soundsLike, listening.rejected, notices.said]).toEqual(['Kick', 1, 'This sounds like another drum of your kit.']);
});

it('without drums there is nothing to walk through', () => {
  drumKit.kit = { drums: [] } as unknown as Kit;
  listening.beginKit('simulated');
  expect(listening.open).toBe(false);
});
