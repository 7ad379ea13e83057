import { beforeEach, expect, it, vi } from 'vitest';
import { served } from '../api/served';
import type { KeptKit, Kit } from '../api/types';
import { drumKit } from './drumKit.svelte';
import { notices } from '../shell/notices.svelte';
import { server } from '../shell/server.svelte';
import { workbench } from '../bench/workbench.svelte';
import { kits } from './kits.svelte';

const mine: KeptKit = {
  id: 1,
  name: 'My kit',
  drums: [
    { drum_id: 4, in_case: false },
    { drum_id: 5, in_case: true },
  ],
  borrowed: false,
  venue_id: null,
};
const tonight = { genre: 'rock', bpm: 120, kit_id: null };
const drums = [{ drum: { id: 4, name: 'Steel snare' } }, { drum: { id: 5, name: 'Wood snare' } }];
const READ = {
  'GET /kit': { tonight, kit: mine, drums: [], demo: false },
  'GET /kits': { kits: [mine], drums: [] },
  'GET /presets': [],
  'GET /shelf': [],
  'GET /data': { notes: [] },
  'GET /drum-kinds': [],
};

beforeEach(() => {
  vi.unstubAllGlobals();
  Object.assign(drumKit, { kit: { tonight, kit: mine, drums } as unknown as Kit, drumId: undefined });
  Object.assign(notices, { list: [] });
  Object.assign(server, { reachable: true });
  kits.all = undefined;
});

it('changes one thing of a kit, and takes it back', async () => {
  const sent = served({ ...READ, 'PUT /kits/1': mine });
  expect(await kits.change(mine, () => ({ name: 'Travelling kit' }), 'Renamed.')).toBe(true);
  expect(sent[0]?.body).toEqual({ name: 'Travelling kit', drums: mine.drums, borrowed: false, venue_id: null });
  await workbench.undo();
  expect(sent.filter(({ key }) => key === 'PUT /kits/1').at(-1)?.body).toMatchObject({ name: 'My kit' });
});

it('makes changes one after the other, each of what the one before has left', async () => {
  let kept = mine;
  const sent = served({ ...READ, 'PUT /kits/1': mine }, (key) => {
    if (key === 'PUT /kits/1') kept = { ...kept, ...(sent.at(-1)?.body as typeof mine) };
    if (key === 'PUT /kits/1') return Promise.resolve(new Response(JSON.stringify(kept)));
    return key === 'GET /kits' ? Promise.resolve(new Response(JSON.stringify({ kits: [kept], drums: [] }))) : undefined;
  });
  await kits.load();
  const add = (drum_id: number) => kits.change(mine, ({ drums }) => ({ drums: [...drums, { drum_id, in_case: false }] }), 'Added.');
  await Promise.all([add(7), add(8), add(9)]);
  expect(kept.drums.map((at) => at.drum_id)).toEqual([4, 5, 7, 8, 9]);
});

it('lets one snare stand in for another', async () => {
  const sent = served({ ...READ, 'PUT /kits/1': mine });
  await kits.setUp(5, 4);
  expect(sent[0]?.body).toMatchObject({
    drums: [
      { drum_id: 4, in_case: true },
      { drum_id: 5, in_case: false },
    ],
  });
  expect(notices.list[0]?.text).toBe('The Wood snare stands in for the Steel snare.');
});

it('begins a kit with the drums of a usual one, and undoes all of it', async () => {
  const sent = served({
    ...READ,
    'POST /kits': { ...mine, id: 2, name: 'Club kit' },
    'PUT /tonight': {},
    'POST /usual-kits': [{ id: 8 }, { id: 9 }],
    'DELETE /drums/8': {},
    'DELETE /drums/9': {},
    'DELETE /kits/2': {},
  });
  const usual = { kit: 'jazz', name: 'Jazz' } as Parameters<typeof kits.begin>[1];
  expect(await kits.begin({ name: 'Club kit', drums: [], borrowed: true, venue_id: null }, usual, false)).toBe(true);
  const keys = () => sent.map(({ key }) => key);
  expect(keys().indexOf('PUT /tonight')).toBeLessThan(keys().indexOf('POST /usual-kits'));
  await workbench.undo();
  expect(keys()).toEqual(expect.arrayContaining(['DELETE /drums/8', 'DELETE /drums/9', 'DELETE /kits/2']));
  expect(sent.filter(({ key }) => key === 'PUT /tonight').at(-1)?.body).toMatchObject({ kit_id: null });
});

it('keeps what was, and says why, where a kit cannot be', async () => {
  served({ ...READ, 'PUT /kits/1': { status: 422, detail: 'A drum stands in a kit once.' } });
  expect(await kits.change(mine, () => ({ drums: [] }), 'Changed.')).toBe(false);
  expect(notices.list.map(({ text }) => text)).toEqual(['A drum stands in a kit once.']);
});
