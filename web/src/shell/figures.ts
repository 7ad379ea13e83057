// Figures as they are shown: with their unit, to the digits that mean something.

import { LANGUAGE } from './language';

export const NOT_KNOWN = '–';

const DECIMALS = [0, 1, 2, 3, 4].map(
  (digits) => new Intl.NumberFormat(LANGUAGE, { minimumFractionDigits: digits, maximumFractionDigits: digits, useGrouping: false }),
);

/** A number to `digits` decimals, as the language writes it. */
export function fixed(value: number, digits: number): string {
  return DECIMALS[digits]?.format(value) ?? value.toFixed(digits);
}

/** A time: ms below 0.1 s. */
export function seconds(value: number | null | undefined): string {
  if (value == null) return NOT_KNOWN;
  return value < 0.0995 ? `${Math.round(1000 * value)} ms` : `${fixed(value, 2)} s`;
}

export function hertz(value: number | null | undefined): string {
  return value == null ? NOT_KNOWN : `${Math.round(value)} Hz`;
}

export function percent(value: number | null | undefined): string {
  return value == null ? NOT_KNOWN : `${Math.round(100 * value)} %`;
}

export function decibels(value: number | null | undefined): string {
  return value == null ? NOT_KNOWN : `${minus(fixed(value, 1))} dB`;
}

export function cents(value: number | null | undefined): string {
  return value == null ? NOT_KNOWN : `${minus(fixed(value, 0))} cents`;
}

/** "10 s", "5 min". */
export function effort(value: number): string {
  return value < 90 ? `${Math.round(value)} s` : `${Math.round(value / 60)} min`;
}

export function inches(value: number): string {
  return `${value.toLocaleString(LANGUAGE)} in`;
}

/** "820 kB", "1.4 GB". */
export function bytes(value: number): string {
  const [unit, size] = value < 1e6 ? ['kB', 1e3] : value < 1e9 ? ['MB', 1e6] : ['GB', 1e9];
  const count = value / size;
  return `${count < 10 && value >= 1e6 ? fixed(count, 1) : Math.round(count)} ${unit}`;
}

/** A typographic minus, which lines up with digits. */
function minus(text: string): string {
  return /^-0([.,]0*)?$/.test(text) ? text.slice(1) : text.replace('-', '−');
}

/** Marks a single word as one that is read, so that it is translated; sentences are found without it. */
export function said(word: string): string {
  return word;
}

/** A word or sentence within another one: without its capital where the language has it so. German nouns keep theirs. */
export function within(words: string): string {
  return LANGUAGE === 'en' ? words.charAt(0).toLowerCase() + words.slice(1) : words;
}

/** "1 strike", "5 strikes". */
export function counted(count: number, one: string, many: string): string {
  return `${count} ${count === 1 ? one : many}`;
}

const WHEN = new Intl.DateTimeFormat(LANGUAGE, { dateStyle: 'medium', timeStyle: 'short' });

export function when(milliseconds: number): string {
  return WHEN.format(milliseconds);
}

/** A sentence in which no figure is torn from its unit at the end of a line. */
export function unbroken(sentence: string): string {
  return sentence.replace(/(\d) (?=(?:s|Hz|%)(?!\w))/g, '$1\u00a0');
}
