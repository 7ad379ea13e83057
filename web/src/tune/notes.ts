// Notes as musicians write them, in equal temperament from A4 = 440 Hz (ISO 16).

const CLASSES: Record<string, number> = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 };

/** Pitch (Hz) of "A3", "Bb2", "f#3", or of a plain number of Hz; undefined of anything else. */
export function noteHz(text: string): number | undefined {
  const plain = text.trim().replace(',', '.');
  if (/^\d+(\.\d+)?( ?hz)?$/i.test(plain)) return parseFloat(plain);
  const [, letter, signs, octave] = /^([a-g])([#♯b♭]*)(-?\d)$/i.exec(plain) ?? [];
  const base = letter === undefined ? undefined : CLASSES[letter.toLowerCase()];
  if (base === undefined || signs === undefined || octave === undefined) return undefined;
  const shift = [...signs].reduce((sum, sign) => sum + (sign === '#' || sign === '♯' ? 1 : -1), 0);
  return 440 * 2 ** ((base + shift + 12 * (Number(octave) + 1) - 69) / 12);
}
