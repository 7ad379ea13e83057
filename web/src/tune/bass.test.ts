import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { ListenEvent } from '../api/types';
import { Live, type LiveOwner } from '../listening/live';
import { bass } from './bass.svelte';

let owner: LiveOwner;
const live = { stop: vi.fn(), close: vi.fn() };

beforeEach(() => {
  vi.stubGlobal('location', { protocol: 'http:', host: 'here' });
  vi.spyOn(Live, 'begin').mockImplementation((_, given) => {
    owner = given;
    return live as unknown as Live;
  });
});

afterEach(() => {
  bass.close();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const note = (name: string, hz: number): ListenEvent => ({ event: 'bass_note', heard: { hz, note: { name, cents: 0 }, at_s: 1 } });

it('names each note once, low to high, whatever the order they were played in', () => {
  bass.begin('simulated');
  for (const event of [note('A1', 55.1), note('E1', 41.3), note('A1', 54.9), note('G1', 49)]) owner.event(event);
  expect(bass.listening).toBe(true);
  expect(bass.names).toEqual(['E1', 'G1', 'A1']);
  owner.event({ event: 'done', good: 4, rejected: 0, complete: true });
  expect([bass.listening, bass.problem]).toEqual([false, '']);
  expect(bass.names, 'what was heard stays').toEqual(['E1', 'G1', 'A1']);
});

it('says what to do where nothing was heard, and why it broke off', () => {
  bass.begin('microphone');
  owner.event({ event: 'done', good: 0, rejected: 0, complete: false });
  expect(bass.problem).toContain('one at a time');
  bass.begin('microphone');
  expect(bass.problem, 'a new beginning forgets it').toBe('');
  owner.event({ event: 'problem', problem: 'busy', detail: 'Another window is listening.' });
  expect([bass.listening, bass.problem]).toEqual([false, 'Another window is listening.']);
  bass.begin('microphone');
  owner.failed('The microphone was unplugged.');
  expect(bass.problem).toBe('The microphone was unplugged.');
});

it('asks for the rate of the microphone and lets go when it is left', () => {
  bass.begin('microphone');
  expect(owner.address(44100)).toMatch(/\/bass\/listen\?source=microphone&take_over=false&sample_rate=44100$/);
  bass.stop();
  expect(live.stop).toHaveBeenCalledTimes(1);
  bass.close();
  expect(bass.listening).toBe(false);
  expect(live.close).toHaveBeenCalled();
});
