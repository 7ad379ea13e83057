import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { served } from '../api/served';
import { app } from './app.svelte';

const kit = { tonight: { genre: 'surf', bpm: 150 }, drums: [{ drum: { id: 1 } }, { drum: { id: 2 } }], demo: false };
const bench = (id: number) => ({ drum: { id }, open: { id: 9 }, treatment: null, found: null, takes: [] });

beforeEach(() => {
  vi.useFakeTimers();
  Object.assign(app, { kit: undefined, drumId: undefined, bench: undefined, plans: undefined, notices: [], reachable: true });
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('the page', () => {
  it('begins with the first drum and its plans', async () => {
    served({
      'GET /kit': kit,
      'GET /presets': [],
      'GET /shelf': [],
      'GET /data': { notes: [] },
      'GET /drum-kinds': [],
      'GET /drums/1/bench': bench(1),
      'GET /drums/1/plans': { plans: [{}, {}] },
    });
    await app.load();
    await vi.waitFor(() => expect(app.planning).toBe(false));
    expect([app.drumId, app.bench?.drum.id, app.plans?.plans.length]).toEqual([1, 1, 2]);
  });

  it('shows a refusal in the words of the server, and undoes nothing by it', async () => {
    served({ 'DELETE /takes/3': { status: 409, detail: 'A treatment started from this take, so it stays.' } });
    const { api } = await import('../api/client');
    expect(await app.attempt(() => api.removeTake(3))).toBe(false);
    expect(app.notices.map((notice) => [notice.tone, notice.text])).toEqual([
      ['problem', 'A treatment started from this take, so it stays.'],
    ]);
    expect(app.reachable).toBe(true);
  });

  it('keeps the reason when plans are refused', async () => {
    served({ 'GET /kit': kit, 'GET /drums/2/bench': bench(2), 'GET /drums/2/plans': { status: 409, detail: 'No clear body was found.' } });
    await app.choose(2);
    await vi.waitFor(() => expect(app.planning).toBe(false));
    expect([app.plans, app.plansRefused, app.planning]).toEqual([undefined, 'No clear body was found.', false]);
  });

  it('waits for a server that is gone, and goes on by itself', async () => {
    served({});
    await app.choose(1);
    expect(app.reachable).toBe(false);
    await vi.advanceTimersByTimeAsync(2100);
    expect(app.reachable).toBe(false);
    served({
      'GET /kit': kit,
      'GET /presets': [],
      'GET /shelf': [],
      'GET /data': { notes: [] },
      'GET /drum-kinds': [],
      'GET /drums/1/bench': bench(1),
      'GET /drums/1/plans': { plans: [] },
    });
    await vi.advanceTimersByTimeAsync(2100);
    expect([app.reachable, app.bench?.drum.id]).toEqual([true, 1]);
  });

  it('notices by itself that the server has gone, unless nobody looks', async () => {
    vi.stubGlobal('document', { hidden: true });
    served({});
    Object.assign(app, { kit });
    const enough = app.watch();
    await vi.advanceTimersByTimeAsync(5100);
    expect(app.reachable).toBe(true);
    vi.stubGlobal('document', { hidden: false });
    await vi.advanceTimersByTimeAsync(5100);
    expect(app.reachable).toBe(false);
    enough();
  });

  it('undoes the newest change only, once', async () => {
    const asked = served({
      'GET /kit': kit,
      'GET /drums/1/bench': bench(1),
      'GET /drums/1/plans': { plans: [] },
      'PATCH /strikes/5': {},
      'PATCH /strikes/6': {},
    });
    app.drumId = 1;
    await app.setDropped(5, true);
    await app.setDropped(6, true);
    expect(app.notices.map((notice) => notice.undo !== undefined)).toEqual([false, true]);
    asked.length = 0;
    await app.undo();
    await app.undo();
    expect(asked.filter(({ key }) => key.startsWith('PATCH')).map(({ key }) => key)).toEqual(['PATCH /strikes/6']);
  });

  it('keeps the way back of a newer change when an older undo is only answered now', async () => {
    const asked = served({ 'GET /kit': kit, 'GET /drums/1/bench': bench(1), 'GET /drums/1/plans': { plans: [] }, 'PATCH /strikes/6': {} });
    app.drumId = 1;
    let answered = () => {};
    app.notice('Played for 3 hours.', () => new Promise<void>((answer) => (answered = answer)));
    const undoing = app.undo();
    await app.setDropped(6, true);
    answered();
    await undoing;
    expect(app.notices.map((notice) => notice.text)).toEqual(['The strike is left out.', 'Undone.']);
    asked.length = 0;
    await app.undo();
    expect(asked.filter(({ key }) => key.startsWith('PATCH')).map(({ key }) => key)).toEqual(['PATCH /strikes/6']);
  });

  it('puts a shelf count back that the server refused', async () => {
    served({ 'PUT /shelf/tape': { status: 422, detail: 'A shelf holds at most 99 of one device.' } });
    Object.assign(app, { shelf: [{ kind: 'tape', count: 3 }] });
    await app.setShelf('tape', 500);
    expect(app.shelf[0]?.count).toBe(3);
  });

  it('lets plain messages go by themselves, and problems stay', async () => {
    app.notice('Done.');
    app.notice('Not done.', undefined, 'problem');
    await vi.advanceTimersByTimeAsync(10_000);
    expect(app.notices.map((notice) => notice.text)).toEqual(['Not done.']);
  });
});
