import { expect, it } from 'vitest';
import type { SessionHeard, ToneLine } from '../api/types';
import { toneCsv, toneText } from './tone';

const line = (part: Partial<ToneLine>): ToneLine => ({
  knob: 'leave',
  says: 'Leave 60 Hz',
  why: 'It is the note, and "all" of it.',
  measured: true,
  hz: 60.04,
  db: null,
  q: null,
  time_s: null,
  ...part,
});

const session = {
  drums: [
    {
      tone: [
        {
          channel: 1,
          name: 'kick in',
          settings: [line({}), line({ knob: 'gate_hold', says: 'Hold 183 ms', hz: null, time_s: 0.1834, why: 'So long.' })],
        },
      ],
    },
    { tone: [] },
  ],
} as unknown as SessionHeard;

it('a CSV has a row a knob, with what needs it in quotes', () => {
  expect(toneCsv(session)).toBe(
    'channel,microphone,knob,hz,db,q,ms,measured,why\r\n' +
      '1,kick in,leave,60,,,,yes,"It is the note, and ""all"" of it."\r\n' +
      '1,kick in,gate_hold,,,,183,yes,So long.\r\n',
  );
});

it('as text each channel is a paragraph', () => {
  expect(toneText(session)).toBe('1 kick in\n  Leave 60 Hz. It is the note, and "all" of it.\n  Hold 183 ms. So long.\n');
});
