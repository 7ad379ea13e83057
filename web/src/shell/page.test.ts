import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { served } from '../api/served';
import { drumKit } from '../kit/drumKit.svelte';
import { workbench } from '../bench/workbench.svelte';
import { notices } from './notices.svelte';
import { server } from './server.svelte';
import { deviceShelf } from '../shelf/deviceShelf.svelte';
import { load, watch } from './load';

const kit = { tonight: { genre: 'surf', bpm: 150 }, drums: [{ drum: { id: 1 } }, { drum: { id: 2 } }], demo: false };
const bench = (id: number) => ({ drum: { id }, open: { id: 9 }, treatment: null, found: null, takes: [] });

beforeEach(() => {
  vi.useFakeTimers();
  Object.assign(drumKit, { kit: undefined, drumId: undefined });
  Object.assign(workbench, { bench: undefined, plans: undefined });
  Object.assign(notices, { list: [] });
  Object.assign(server, { reachable: true });
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
    await load();
    await vi.waitFor(() => expect(workbench.planning).toBe(false));
    expect([drumKit.drumId, workbench.bench?.drum.id, workbench.plans?.plans.length]).toEqual([1, 1, 2]);
  });

  it('shows a refusal in the words of the server, and undoes nothing by it', async () => {
    served({ 'DELETE /takes/3': { status: 409, detail: 'A treatment started from this take, so it stays.' } });
    const { api } = await import('../api/client');
    expect(await server.attempt(() => api.removeTake(3))).toBe(false);
    expect(notices.list.map((notice) => [notice.tone, notice.text])).toEqual([
      ['problem', 'A treatment started from this take, so it stays.'],
    ]);
    expect(server.reachable).toBe(true);
  });

  it('keeps the reason when plans are refused', async () => {
    served({ 'GET /kit': kit, 'GET /drums/2/bench': bench(2), 'GET /drums/2/plans': { status: 409, detail: 'No clear body was found.' } });
    await workbench.choose(2);
    await vi.waitFor(() => expect(workbench.planning).toBe(false));
    expect([workbench.plans, workbench.plansRefused, workbench.planning]).toEqual([undefined, 'No clear body was found.', false]);
  });

  it('waits for a server that is gone, and goes on by itself', async () => {
    served({});
    await workbench.choose(1);
    expect(server.reachable).toBe(false);
    await vi.advanceTimersByTimeAsync(2100);
    expect(server.reachable).toBe(false);
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
    expect([server.reachable, workbench.bench?.drum.id]).toEqual([true, 1]);
  });

  it('notices by itself that the server has gone, unless nobody looks', async () => {
    vi.stubGlobal('document', { hidden: true });
    served({});
    Object.assign(drumKit, { kit });
    const enough = watch();
    await vi.advanceTimersByTimeAsync(5100);
    expect(server.reachable).toBe(true);
    vi.stubGlobal('document', { hidden: false });
    await vi.advanceTimersByTimeAsync(5100);
    expect(server.reachable).toBe(false);
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
    drumKit.drumId = 1;
    await workbench.setDropped(5, true);
    await workbench.setDropped(6, true);
    expect(notices.list.map((notice) => notice.undo !== undefined)).toEqual([false, true]);
    asked.length = 0;
    await workbench.undo();
    await workbench.undo();
    expect(asked.filter(({ key }) => key.startsWith('PATCH')).map(({ key }) => key)).toEqual(['PATCH /strikes/6']);
  });

  it('keeps the way back of a newer change when an older undo is only answered now', async () => {
    const asked = served({ 'GET /kit': kit, 'GET /drums/1/bench': bench(1), 'GET /drums/1/plans': { plans: [] }, 'PATCH /strikes/6': {} });
    drumKit.drumId = 1;
    let answered = () => {};
    notices.add('Played for 3 hours.', () => new Promise<void>((answer) => (answered = answer)));
    const undoing = workbench.undo();
    await workbench.setDropped(6, true);
    answered();
    await undoing;
    expect(notices.list.map((notice) => notice.text)).toEqual(['The strike is left out.', 'Undone.']);
    asked.length = 0;
    await workbench.undo();
    expect(asked.filter(({ key }) => key.startsWith('PATCH')).map(({ key }) => key)).toEqual(['PATCH /strikes/6']);
  });

  it('puts a shelf count back that the server refused', async () => {
    served({ 'PUT /shelf/tape': { status: 422, detail: 'A shelf holds at most 99 of one device.' } });
    Object.assign(deviceShelf, { devices: [{ kind: 'tape', count: 3 }] });
    await deviceShelf.set('tape', 500);
    expect(deviceShelf.devices[0]?.count).toBe(3);
  });

  it('lets plain messages go by themselves, and problems stay', async () => {
    notices.add('Done.');
    notices.add('Not done.', undefined, 'problem');
    await vi.advanceTimersByTimeAsync(10_000);
    expect(notices.list.map((notice) => notice.text)).toEqual(['Not done.']);
  });
});
