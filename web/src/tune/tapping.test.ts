import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { listening } from '../listening/listen.svelte';
import { notices } from '../shell/notices.svelte';
import { tapping } from './tapping.svelte';
import { tune } from './tune.svelte';

/** A socket that is told what the server says. */
class FakeSocket {
  static readonly OPEN = 1;
  static all: FakeSocket[] = [];
  readyState = 1;
  sent: unknown[] = [];
  onmessage: ((event: { data: string }) => void) | undefined;
  onclose: (() => void) | undefined;

  constructor(readonly address: string) {
    FakeSocket.all.push(this);
  }

  send(message: unknown) {
    this.sent.push(message);
  }

  close() {
    this.readyState = 3;
  }

  says(event: object) {
    this.onmessage?.({ data: JSON.stringify(event) });
  }
}

const last = () => {
  const socket = FakeSocket.all.at(-1);
  if (!socket) throw new Error('nothing was opened');
  return socket;
};
const round = (heard: number) => ({ id: 1, lugs: 6, pitches: { lugs: Array.from({ length: heard }, (_, lug) => ({ lug })) } });

beforeEach(() => {
  FakeSocket.all = [];
  vi.useFakeTimers();
  vi.stubGlobal('WebSocket', FakeSocket);
  vi.stubGlobal('location', { protocol: 'http:', host: 'here' });
  vi.spyOn(tune, 'load').mockResolvedValue();
  listening.hearing = 'simulated';
  notices.list = [];
});

afterEach(() => {
  tapping.close();
  vi.useRealTimers();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

it('asks for a lug, says what came of the tap, and ends by itself', () => {
  tapping.begin(2, 'lower');
  expect(last().address).toMatch(/^ws:\/\/here\/api\/v1\/drums\/2\/tuning\/listen\?side=lower&source=simulated/);
  last().says({ event: 'ready' });
  last().says({ event: 'tap', round: round(0), asked_lug: 0, tapped: null });
  expect([tapping.stage, tapping.askedLug, tapping.verdict]).toEqual(['listening', 0, undefined]);
  const tapped = { lug: 0, fault: 'too_soft', sentence: 'Too soft to hear its pitch.' };
  last().says({ event: 'tap', round: round(0), asked_lug: 0, tapped });
  expect([tapping.verdict?.fault, notices.said]).toEqual(['too_soft', 'Too soft to hear its pitch.']);
  last().says({ event: 'tap', round: round(6), asked_lug: null, tapped: { ...tapped, fault: null } });
  expect([tapping.askedLug, tapping.answers]).toEqual([undefined, 2]);
  last().says({ event: 'done', take: null, good: 6, rejected: 0, complete: true });
  expect([tapping.open, notices.list.length]).toEqual([false, 0]);
  expect(tune.load).toHaveBeenCalled();
});

it('steps over lugs, stops, and says that what was heard is kept', () => {
  tapping.begin(2, 'batter', { again_lug: 4 });
  expect(last().address).toContain('again_lug=4');
  last().says({ event: 'ready' });
  tapping.move('next');
  tapping.move('back');
  tapping.stop();
  expect(last().sent).toEqual(['next', 'back', 'stop']);
  last().says({ event: 'done', take: null, good: 2, rejected: 0, complete: false });
  expect(notices.list.at(-1)?.text).toContain('kept');
});

it('goes on with the round after the connection broke, and takes over from another window', () => {
  tapping.begin(2, 'batter', { anew: true });
  last().says({ event: 'ready' });
  last().onclose?.();
  expect([tapping.stage, tapping.problem]).toEqual(['failed', 'The connection to Soft Ember broke off. What was told here is kept.']);
  tapping.again();
  expect(last().address).not.toContain('anew');
  last().says({ event: 'problem', problem: 'busy', detail: 'Another window is listening.' });
  expect(tapping.stage).toBe('busy');
  tapping.takeOver();
  expect(last().address).toContain('take_over=true');
});

it('does not wait for ever for a server that is gone', () => {
  tapping.begin(2, 'batter');
  last().says({ event: 'ready' });
  tapping.stop();
  vi.advanceTimersByTime(6000);
  expect([tapping.stage, tapping.problem]).toEqual(['failed', 'The server does not answer. What was told here is kept.']);
  tapping.stop();
  expect(tapping.open).toBe(false);
});

it('begins a new round where a rod was turned in between', () => {
  tapping.begin(2, 'batter');
  last().says({ event: 'ready' });
  last().says({
    event: 'tap',
    round: round(4),
    asked_lug: 5,
    tapped: { lug: 5, fault: 'retuned', sentence: 'The head sounds otherwise.' },
  });
  expect(tapping.verdict?.fault).toBe('retuned');
  const old = last();
  tapping.anew();
  expect(old.readyState, 'the old round is let go').toBe(3);
  expect(last().address).toMatch(/side=batter&source=simulated&take_over=true&anew=true/);
  expect([tapping.stage, tapping.verdict]).toEqual(['opening', undefined]);
});
