import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Kit } from '../api/types';

/** Enough of an element for a key's target: what it is, and whether a dialog is open around it. */
class Element {
  constructor(
    readonly kind: string,
    readonly inDialog = false,
  ) {}
  matches = (selector: string) => selector.split(',').some((part) => part.trim().startsWith(this.kind));
  closest = () => (this.inDialog ? this : null);
}

vi.stubGlobal('HTMLElement', Element);
vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined });
vi.stubGlobal('document', { documentElement: { dataset: {} } });

const { drumKit } = await import('../kit/drumKit.svelte');
const { workbench } = await import('../bench/workbench.svelte');
const { view } = await import('./view.svelte');
const { listening } = await import('../listening/listen.svelte');
const { dialogs } = await import('./dialogs.svelte');
const { keys, pressed } = await import('./keys');
const { night } = await import('../tonight/night.svelte');
const { stage } = await import('../tonight/stage.svelte');

const press = (key: string, target = new Element('body'), more = {}) => {
  const event = { key, target, ctrlKey: false, metaKey: false, altKey: false, repeat: false, preventDefault: vi.fn(), ...more };
  pressed(event as unknown as KeyboardEvent);
  return event;
};

describe('keys', () => {
  const choose = vi.spyOn(workbench, 'choose').mockResolvedValue();

  beforeEach(() => {
    choose.mockClear();
    drumKit.kit = { drums: [{ drum: { id: 7 } }, { drum: { id: 8 } }, { drum: { id: 9 } }] } as unknown as Kit;
    drumKit.drumId = 7;
    view.place = 'shelf';
    listening.stage = 'off';
  });

  it('are listed once each', () => {
    const all = keys.flatMap((key) => key.keys);
    expect(new Set(all).size).toBe(all.length);
    expect(keys.every((key) => key.shown !== '' && key.does !== '')).toBe(true);
  });

  it('choose drums by number and by pedal, and bring up the bench', () => {
    press('3');
    expect(choose).toHaveBeenLastCalledWith(9);
    expect(view.place).toBe('bench');
    press('PageUp');
    expect(choose).toHaveBeenLastCalledWith(9);
    choose.mockClear();
    press('4');
    expect(choose).not.toHaveBeenCalled();
  });

  it('belong to a field or a dialog that uses them', () => {
    press('n', new Element('textarea'));
    press('n', new Element('body', true));
    press('n', new Element('body'), { ctrlKey: true });
    press('n', new Element('body'), { repeat: true });
    expect(dialogs.open).toBeUndefined();
    expect(press('N').preventDefault).toHaveBeenCalled();
    expect(dialogs.open).toBe('new-drum');
    dialogs.close('drum');
    expect(dialogs.open).toBe('new-drum');
    dialogs.close('drum', 'new-drum');
    expect(dialogs.open).toBeUndefined();
  });

  it('only stop listening while it listens', () => {
    const stop = vi.spyOn(listening, 'stop').mockReturnValue();
    listening.stage = 'listening';
    press('2');
    press('d');
    expect(choose).not.toHaveBeenCalled();
    press('PageDown');
    press('Escape');
    expect(stop).toHaveBeenCalledTimes(2);
  });

  it('step through the stage view while it is open, and do nothing else', () => {
    const [next, back] = (['next', 'back'] as const).map((way) => vi.spyOn(stage, way).mockImplementation(() => undefined));
    stage.open = true;
    for (const [key, by] of [
      ['PageDown', 1],
      ['ArrowRight', 1],
      ['PageUp', -1],
      ['ArrowLeft', -1],
    ] as const) {
      expect(press(key).preventDefault).toHaveBeenCalled();
      expect(by > 0 ? next : back).toHaveBeenCalled();
    }
    expect([next, back].map((way) => way?.mock.calls.length)).toEqual([2, 2]);
    press('3');
    expect(choose).not.toHaveBeenCalled();
    press('Escape');
    expect(stage.open).toBe(false);
  });

  it('bring up tonight, and from there a pedal begins the stage view', async () => {
    const begin = vi.spyOn(stage, 'begin').mockImplementation(() => undefined);
    night.evening = { songs: [], plans: [] } as unknown as typeof night.evening;
    press('g');
    expect(view.place).toBe('tonight');
    press('PageDown');
    await vi.waitFor(() => expect(begin).toHaveBeenCalled());
    press('b');
    expect(view.place).toBe('bench');
  });
});
