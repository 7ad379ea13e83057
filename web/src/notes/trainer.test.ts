import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { ListenEvent } from '../api/types';
import { Live, type LiveOwner } from '../listening/live';
import { notices } from '../shell/notices.svelte';
import { lengthOf, rulerEnd } from './lengths';
import { trainer } from './trainer.svelte';

let owner: LiveOwner;
const live = { stop: vi.fn(), close: vi.fn() };

beforeEach(() => {
  vi.stubGlobal('location', { protocol: 'http:', host: 'here' });
  vi.spyOn(Live, 'begin').mockImplementation((_, given) => {
    owner = given;
    return live as unknown as Live;
  });
  Object.assign(trainer, { value: 'half', ownBpm: 96 });
});

afterEach(() => {
  trainer.close();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const note = (sounded_s: number, notes: number): ListenEvent => ({
  event: 'note_played',
  note: { at_s: 1, sounded_s, ending: 'damped', damping_s: 0.06, off_s: sounded_s - 1.25, verdict: 'too_long', sentence: 'Too long.' },
  all: { written_s: 1.25, tolerance_s: 0.125, notes, as_written: 0, off_s: 0.2, sentence: null },
});

describe('note lengths', () => {
  it('keeps what was played to be looked at when it is stopped, and lets go at the second time', () => {
    trainer.begin(7, 'microphone');
    expect(owner.address(44100)).toMatch(/drums\/7\/notes\/listen\?source=microphone&value=half&bpm=96&take_over=false&sample_rate=44100$/);
    for (const event of [{ event: 'ready' } as const, note(1.5, 1), note(1.4, 2)]) owner.event(event);
    expect([trainer.stage, trainer.played.length, trainer.all?.notes]).toEqual(['open', 2, 2]);
    owner.event({ event: 'note_too_soft' });
    expect([trainer.tooSoft, trainer.played.length], 'a stroke too soft to tell is said, and counts for nothing').toEqual([true, 2]);
    owner.event(note(1.3, 3));
    expect(trainer.tooSoft).toBe(false);
    trainer.stop();
    expect([trainer.stage, live.stop.mock.calls.length]).toEqual(['ending', 1]);
    owner.event({ event: 'done', good: 2, rejected: 0, complete: true });
    expect([trainer.stage, trainer.played.length]).toEqual(['over', 3]);
    trainer.stop();
    expect(trainer.open).toBe(false);
    trainer.begin(7, 'simulated');
    expect(trainer.played, 'a new beginning forgets the old notes').toEqual([]);
  });

  it('says why it cannot begin or go on', () => {
    trainer.ownBpm = 5;
    trainer.begin(7, 'simulated');
    expect([trainer.open, notices.list.at(-1)?.tone]).toEqual([false, 'problem']);
    trainer.ownBpm = undefined;
    expect(trainer.bpm, 'without a kit a usual tempo').toBe(120);
    trainer.begin(7, 'simulated');
    owner.event({ event: 'problem', problem: 'busy', detail: 'Another window is listening.' });
    expect([trainer.stage, trainer.problem]).toEqual(['busy', 'Another window is listening.']);
    trainer.again(true);
    expect(owner.address()).toContain('take_over=true');
  });

  // A half note at 96 quarters a minute lasts 1.25 s (worked by hand).
  it('knows how long notes are written, and gives all of them room', () => {
    expect(lengthOf('half', 96)).toBeCloseTo(1.25, 12);
    expect(rulerEnd(1, [0.5, 3])).toBeGreaterThan(3);
    expect(rulerEnd(1, [])).toBeGreaterThan(1.5);
  });
});
