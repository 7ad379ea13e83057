import type { SessionHeard, ToneLine } from '../api/types';

/** A cell of a CSV file (RFC 4180): in quotes where it must be, its quotes twice. */
const cell = (value: string | number | null | undefined) => {
  const text = value == null ? '' : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};

/** A number for a machine: so many decimals, none that are noise. */
const figure = (value: number | null | undefined, decimals: number) => (value == null ? null : Number(value.toFixed(decimals)));

const columns = ['channel', 'microphone', 'knob', 'hz', 'db', 'q', 'ms', 'measured', 'why'];

const row = (channel: number, name: string, line: ToneLine) => [
  channel,
  name,
  line.knob,
  figure(line.hz, 1),
  figure(line.db, 1),
  figure(line.q, 1),
  figure(line.time_s == null ? null : 1000 * line.time_s, 0),
  line.measured ? 'yes' : 'no',
  line.why,
];

/** Where all knobs begin, a row a knob, for a spreadsheet. */
export function toneCsv({ drums }: SessionHeard): string {
  const rows = drums.flatMap((drum) =>
    drum.tone.flatMap(({ channel, name, settings }) => settings.map((line) => row(channel, name, line))),
  );
  return [columns, ...rows].map((cells) => cells.map(cell).join(',') + '\r\n').join('');
}

/** The same to be read, a channel after the other. */
export function toneText({ drums }: SessionHeard): string {
  const channels = drums.flatMap((drum) => drum.tone);
  const lines = (settings: ToneLine[]) => settings.map(({ says, why }) => `  ${says}. ${why}\n`).join('');
  return channels.map(({ channel, name, settings }) => `${channel} ${name}\n${lines(settings)}`).join('\n');
}
