import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { served } from '../api/served';
import type { Evening, Kit } from '../api/types';
import { drumKit } from '../kit/drumKit.svelte';
import { workbench } from '../bench/workbench.svelte';
import { notices } from '../shell/notices.svelte';
import { server } from '../shell/server.svelte';
import { night } from './night.svelte';
import { stage } from './stage.svelte';

const tonight = { genre: 'surf', bpm: 150, set_list_id: 4, venue_id: null };
const kit = { tonight, drums: [], demo: false } as unknown as Kit;
const list = {
  id: 4,
  name: 'Friday',
  gap_s: 20,
  entries: [
    { kind: 'song', song_id: 1, gap_s: null, pins: [{ drum_id: 9, placements: [] }] },
    { kind: 'break', title: 'Tea', seconds: 600 },
    { kind: 'song', song_id: 2, gap_s: null, pins: [] },
  ],
};
const evening = (songs: number) =>
  ({
    songs: Array.from({ length: songs }, (_, at) => ({ entry: at, song: { id: at, title: `Song ${at}` } })),
    drums: [],
    notes: [],
    plans: ['one_setup', 'few_looks', 'no_compromise'].map((weighing) => ({ weighing, rows: [] })),
  }) as unknown as Evening;

const ANSWERS = {
  'GET /kit': kit,
  'GET /venues/choices': { octaves_hz: [] },
  'GET /presets/usual': [],
  'GET /venues': [{ id: 3, name: 'Saloon' }],
  'GET /set-lists': [list],
  'GET /set-lists/4/evening': evening(2),
  'PUT /set-lists/4': list,
  'PUT /tonight': tonight,
  'DELETE /set-lists/4': { status: { status: 204 } },
};

beforeEach(() => {
  vi.useFakeTimers();
  Object.assign(drumKit, { kit, drumId: undefined });
  Object.assign(workbench, { bench: undefined });
  Object.assign(notices, { list: [] });
  Object.assign(server, { reachable: true });
  Object.assign(night, { evening: undefined, setLists: [], venues: [], weighing: 'few_looks', loaded: false });
  stage.close();
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('tonight', () => {
  it('reads venues and lists, and works the chosen list out', async () => {
    served(ANSWERS);
    await night.load();
    expect([night.loaded, night.setList?.name, night.venue, night.plan?.weighing]).toEqual([true, 'Friday', undefined, 'few_looks']);
    night.weighing = 'one_setup';
    expect(night.plan?.weighing).toBe('one_setup');
  });

  it('asks for no evening without a list', async () => {
    drumKit.kit = { ...kit, tonight: { ...kit.tonight, set_list_id: null } };
    const asked = served(ANSWERS);
    await night.load();
    expect([night.evening, asked.some(({ key }) => key.endsWith('/evening'))]).toEqual([undefined, false]);
  });

  it('pins one drum in one line and leaves the rest as it is; undo brings the old list back', async () => {
    const asked = served(ANSWERS);
    await night.load();
    const pad = [{ device: 'gel_pad', amount: 0, radius: 0.8, angle_deg: 180 }] as never;
    await night.pin(0, 7, pad, 'Stays.');
    const sent = asked.find(({ key }) => key === 'PUT /set-lists/4')?.body as typeof list;
    expect(sent.entries[0]?.pins).toEqual([
      { drum_id: 9, placements: [] },
      { drum_id: 7, placements: pad },
    ]);
    expect(sent.entries.slice(1)).toEqual(list.entries.slice(1));
    await workbench.undo();
    const last = asked.findLast(({ key }) => key === 'PUT /set-lists/4')?.body;
    expect(last).toEqual({ name: list.name, gap_s: list.gap_s, entries: list.entries });
  });

  it('tells what a pin says about the wish, and takes it back with the pin', async () => {
    const pad = [{ device: 'gel_pad', amount: 0, radius: 0.8, angle_deg: 180 }] as never;
    const planned = {
      ...evening(1),
      drums: [{ drum_id: 7, setups: [{ placements: [] }, { placements: pad }] }],
      plans: [{ weighing: 'few_looks', rows: [{ cells: [{ setup: 0 }] }] }],
    };
    const asked = served({
      ...ANSWERS,
      'GET /set-lists/4/evening': planned,
      'POST /drums/7/choices': { id: 12 },
      'DELETE /opinions/12': { status: 204 },
    });
    await night.load();
    await night.pin(0, 7, pad, 'Stays.');
    expect(asked.find(({ key }) => key === 'POST /drums/7/choices')?.body).toEqual({ deed: 'pinned', rather: pad, than: [], song_id: 0 });
    await workbench.undo();
    expect(asked.some(({ key }) => key === 'DELETE /opinions/12')).toBe(true);
    // What stands there already is no choice.
    const before = asked.length;
    await night.pin(0, 7, [], 'Stays.');
    expect(asked.slice(before).some(({ key }) => key.endsWith('/choices'))).toBe(false);
  });

  it('plays a drum in the place of another in one line, one in one place', async () => {
    const asked = served(ANSWERS);
    await night.load();
    await night.setInstead(2, 5, 8, 'Swapped.');
    const sent = asked.find(({ key }) => key === 'PUT /set-lists/4')?.body as typeof list;
    expect(sent.entries[2]).toMatchObject({ instead: [{ drum_id: 8, for_id: 5 }] });
    expect(sent.entries[0]).toEqual(list.entries[0]);
    await night.setInstead(2, 5, undefined, 'Back.');
    expect((asked.findLast(({ key }) => key === 'PUT /set-lists/4')?.body as typeof list).entries[2]).toMatchObject({ instead: [] });
  });

  it('takes a pin out again', async () => {
    const asked = served(ANSWERS);
    await night.load();
    await night.pin(0, 9, undefined, 'Free.');
    const sent = asked.find(({ key }) => key === 'PUT /set-lists/4')?.body as typeof list;
    expect(sent.entries[0]?.pins).toEqual([]);
  });

  it('keeps what it shows when a change is refused, and says why', async () => {
    served({ ...ANSWERS, 'PUT /set-lists/4': undefined });
    await night.load();
    expect(await night.saveSetList({ name: 'Other', gap_s: 20, entries: [] }, 'Changed.')).toBe(false);
    expect(night.setList?.name).toBe('Friday');
    expect(notices.list.some((notice) => notice.text === 'Changed.')).toBe(false);
  });

  it('lets a later answer win over an earlier one that comes late', async () => {
    const waiting: ((answer: Response) => void)[] = [];
    served(ANSWERS, (key) => (key.endsWith('/evening') ? new Promise<Response>((resolve) => waiting.push(resolve)) : undefined));
    const both = [night.load(), night.load()];
    await vi.waitFor(() => expect(waiting.length).toBe(2));
    waiting[1]?.(new Response(JSON.stringify(evening(3))));
    waiting[0]?.(new Response(JSON.stringify(evening(1))));
    await Promise.all(both);
    expect(night.evening?.songs.length).toBe(3);
  });
});

describe('the stage view', () => {
  it('steps through the songs to the end and not beyond', async () => {
    served(ANSWERS);
    await night.load();
    stage.begin();
    expect([stage.open, stage.at, stage.steps.length]).toEqual([true, 0, 2]);
    stage.back();
    expect(stage.at).toBe(0);
    for (let i = 0; i < 5; i++) stage.next();
    expect(stage.at).toBe(2);
    stage.close();
    stage.begin(1);
    expect(stage.at).toBe(1);
  });

  it('tells what is changed on a drum while it is not played, since there is time for it', async () => {
    served(ANSWERS);
    await night.load();
    const setups = [[], ['tape, at 3']].map((devices) => ({ words: devices.join() || 'open', devices, things: [] }));
    const rows = [0, 1].map((setup) => ({ cells: [{ setup, out: setup === 1 }], change_s: 5, over_s: 0, missing: [] }));
    night.evening = {
      ...evening(2),
      drums: [{ drum_id: 7, name: 'Tom', setups }],
      plans: [{ weighing: 'few_looks', rows }],
    } as unknown as NonNullable<typeof night.evening>;
    stage.begin();
    stage.restart();
    stage.next();
    expect(stage.changes.map(({ out, on }) => ({ out, on }))).toEqual([{ out: true, on: ['tape, at 3'] }]);
    stage.next();
    expect(stage.on[7]).toEqual(['tape, at 3']);
    stage.close();
  });

  it('asks for changes from what is really on, however one got there', async () => {
    served(ANSWERS);
    await night.load();
    const setups = [[], ['gel pad, at 12'], ['tape, at 3']].map((devices) => ({
      words: devices.join() || 'open',
      devices,
      things: devices.map((what) => ({ what, place: '' })),
    }));
    const rows = [1, 2].map((setup) => ({ cells: [{ setup }], change_s: 5, over_s: 0, missing: [] }));
    night.evening = {
      ...evening(2),
      drums: [{ drum_id: 7, name: 'Tom', setups }],
      plans: [{ weighing: 'few_looks', rows }],
    } as unknown as NonNullable<typeof night.evening>;
    stage.begin();
    stage.restart();
    const asked = () => stage.changes.map(({ off, on }) => ({ off, on }));
    expect(asked()).toEqual([{ off: [], on: ['gel pad, at 12'] }]);
    stage.next();
    expect(asked()).toEqual([{ off: ['gel pad, at 12'], on: ['tape, at 3'] }]);
    expect(stage.asPlanned).toBe(true);
    // Gone back, the pad is still on; gone on without doing it, too.
    stage.back();
    expect(asked()).toEqual([]);
    expect(stage.asPlanned).toBe(false);
    stage.next();
    stage.next(false);
    expect(stage.on).toEqual({ 7: ['gel pad, at 12'] });
    stage.back();
    // What is ticked stays in sight until the step is over, and can be taken back.
    const [change] = stage.changes;
    if (!change) throw new Error('a change is wanted');
    stage.tick(change);
    expect([stage.changes[0]?.done, stage.on]).toEqual([true, { 7: ['tape, at 3'] }]);
    stage.tick({ ...change, done: true });
    expect([stage.changes[0]?.done, stage.on]).toEqual([false, { 7: ['gel pad, at 12'] }]);
  });

  it('does not open on nothing, and says what is missing', () => {
    stage.begin();
    expect(stage.open).toBe(false);
    expect(notices.list.at(-1)?.text).toContain('no set list');
  });
});
