import { afterEach, expect, it, vi } from 'vitest';
import { Live } from './live';
import * as microphone from './microphone';

afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

it('lets go of the microphone once, however often it is closed', async () => {
  const opened = { rate: 48_000, warnings: [], close: vi.fn() };
  vi.spyOn(microphone, 'openMicrophone').mockResolvedValue(opened);
  const sockets: { onclose?: () => void }[] = [];
  vi.stubGlobal(
    'WebSocket',
    class {
      onclose?: () => void;
      close = vi.fn();
      constructor() {
        sockets.push(this);
      }
    },
  );
  const failed = vi.fn();
  const live = Live.begin('microphone', { address: () => 'ws://here', event: vi.fn(), warned: vi.fn(), failed });
  failed.mockImplementation(() => live.close());
  await vi.waitFor(() => expect(sockets).toHaveLength(1));
  sockets[0]?.onclose?.();
  live.close();
  expect(failed).toHaveBeenCalledOnce();
  expect(opened.close).toHaveBeenCalledOnce();
});
