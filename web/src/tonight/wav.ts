// A recording as a WAV file of 32-bit floats, which loses nothing.

export function wav(pieces: Float32Array[], rate: number): Blob {
  const samples = pieces.reduce((sum, piece) => sum + piece.length, 0);
  const header = new DataView(new ArrayBuffer(44));
  const text = (at: number, word: string) => [...word].forEach((letter, i) => header.setUint8(at + i, letter.charCodeAt(0)));
  text(0, 'RIFF');
  header.setUint32(4, 36 + 4 * samples, true);
  text(8, 'WAVEfmt ');
  header.setUint32(16, 16, true);
  header.setUint16(20, 3, true);
  header.setUint16(22, 1, true);
  header.setUint32(24, rate, true);
  header.setUint32(28, 4 * rate, true);
  header.setUint16(32, 4, true);
  header.setUint16(34, 32, true);
  text(36, 'data');
  header.setUint32(40, 4 * samples, true);
  return new Blob([header, ...(pieces as Float32Array<ArrayBuffer>[])], { type: 'audio/wav' });
}
