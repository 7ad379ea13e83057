import { expect, it } from 'vitest';
import { wav } from './wav';

it('a recording has the header of a float file and its samples as they are', async () => {
  const bytes = await wav([Float32Array.of(0.5, -1), Float32Array.of(0.25)], 48_000).arrayBuffer();
  const view = new DataView(bytes);
  expect(bytes.byteLength).toBe(44 + 12);
  expect(new TextDecoder().decode(bytes.slice(0, 12))).toBe('RIFF0\0\0\0WAVE');
  expect([view.getUint16(20, true), view.getUint16(22, true), view.getUint32(24, true), view.getUint16(34, true)]).toEqual([
    3, 1, 48_000, 32,
  ]);
  expect([0, 1, 2].map((i) => view.getFloat32(44 + 4 * i, true))).toEqual([0.5, -1, 0.25]);
});
