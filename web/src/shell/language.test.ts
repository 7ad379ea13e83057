import PO from 'pofile';
import { describe, expect, it } from 'vitest';
import german from '../locales/de.po?raw';
import { languageOf } from './language';

describe('the language', () => {
  it('is what was chosen, or else what the browser speaks', () => {
    expect(languageOf('', ['de-AT', 'en'])).toBe('de');
    expect(languageOf('theme=dark; language=en', ['de'])).toBe('en');
    expect(languageOf('language=klingon', ['ja', 'fr-CH'])).toBe('en');
  });
});

describe('the German page', () => {
  const { items } = PO.parse(german);
  const said = items.filter((item) => !item.obsolete);
  const places = (text: string) => [...new Set(text.match(/\{\d+\}|<\/?\d+\/?>/g))].sort();

  it('says everything', () => {
    expect(said.length).toBeGreaterThan(1000);
    expect(said.filter((item) => item.msgstr.some((text) => text === '')).map((item) => item.msgid)).toEqual([]);
  });

  it('has the same figures and marks in each sentence', () => {
    const wrong = said.filter((item) => item.msgstr.some((text) => places(text).join() !== places(item.msgid).join()));
    expect(wrong.map((item) => [item.msgid, ...item.msgstr])).toEqual([]);
  });
});
