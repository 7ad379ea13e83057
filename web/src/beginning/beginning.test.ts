import { beforeEach, expect, it } from 'vitest';
import type { ShelfDevice, ShelfSetInfo } from '../api/types';
import { served } from '../api/served';
import { deviceShelf } from '../shelf/deviceShelf.svelte';
import { drumKit } from '../kit/drumKit.svelte';
import { workbench } from '../bench/workbench.svelte';
import { notices } from '../shell/notices.svelte';
import { view } from '../shell/view.svelte';
import { beginning, lackingOf, shelfIsMet } from './beginning.svelte';

const item = (kind: string, count: number, tuning = false) => ({ kind, count, tuning }) as unknown as ShelfDevice;
const set = { set: 'trap_case', name: 'A case', things: [{ device: 'gel_pad', name: 'gel pads', count: 4 }] } as unknown as ShelfSetInfo;

beforeEach(() => {
  Object.assign(deviceShelf, { devices: [] });
  Object.assign(drumKit, { kit: undefined, drumId: undefined });
  Object.assign(workbench, { bench: undefined });
  Object.assign(notices, { list: [] });
  Object.assign(view, { beginning: undefined });
});

it('knows the shelf once something is on it, whatever may be done to the rods', () => {
  expect(shelfIsMet([item('gel_pad', 0), item('rods_turned', 1, true)])).toBe(false);
  expect(shelfIsMet([item('gel_pad', 1)])).toBe(true);
});

it('lacks of a set what is not there in that number', () => {
  expect(lackingOf(set, [item('gel_pad', 4)])).toEqual([]);
  expect(lackingOf(set, [item('gel_pad', 3)])).toHaveLength(1);
  expect(lackingOf(set, [])).toHaveLength(1);
});

it('puts a set on the shelf in one step, and takes back just that', async () => {
  deviceShelf.devices = [item('gel_pad', 1), item('tape', 9)];
  const full = [item('gel_pad', 4), item('tape', 9)];
  const sent = served({ 'POST /shelf/sets': full, 'PUT /shelf/gel_pad': {}, 'GET /shelf': deviceShelf.devices, 'GET /kit': { drums: [] } });
  await beginning.addSet(set);
  expect(deviceShelf.devices).toEqual(full);
  expect(notices.list.at(-1)?.text).toBe('A case: 1 thing put on the shelf.');
  await workbench.undo();
  expect(sent.filter(({ key }) => key.startsWith('PUT'))).toEqual([{ key: 'PUT /shelf/gel_pad', body: { count: 1 } }]);
  expect(deviceShelf.devices.map(({ count }) => count)).toEqual([1, 9]);
});

it('adds a kit, asks for the shelf where that is not known, and takes every drum of it back', async () => {
  const kit = { kit: 'jazz', name: 'Jazz kit' } as unknown as Parameters<typeof beginning.addKit>[0];
  const answers = {
    'GET /kit': { drums: [] },
    'GET /drums/7/bench': {},
    'GET /presets': [],
    'GET /shelf': [],
    'GET /data': {},
    'GET /drum-kinds': [],
  };
  const sent = served({
    ...answers,
    'POST /usual-kits': [{ id: 7 }, { id: 8 }],
    'DELETE /drums/7': { status: 204 },
    'DELETE /drums/8': { status: 204 },
  });
  await beginning.addKit(kit);
  expect(sent[0]).toEqual({ key: 'POST /usual-kits', body: { kit: 'jazz', cymbals: true } });
  expect([drumKit.drumId, view.beginning]).toEqual([7, 'shelf']);
  await workbench.undo();
  expect(sent.filter(({ key }) => key.startsWith('DELETE')).map(({ key }) => key)).toEqual(['DELETE /drums/7', 'DELETE /drums/8']);
  expect(view.beginning).toBeUndefined();
});
