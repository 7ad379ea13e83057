// A short sound before a drum is asked for, so that nobody has to look up. It ends before anything is listened to.

/** Two notes upwards, as long as a drummer needs to look up, s. */
const NOTES_HZ = [660, 880];
const NOTE_S = 0.12;

/** Plays the sound; resolves when it is over, or at once where there is no sound to be had. */
export async function announce(): Promise<void> {
  if (typeof AudioContext === 'undefined') return;
  const context = new AudioContext();
  try {
    NOTES_HZ.forEach((hz, i) => {
      const tone = new OscillatorNode(context, { frequency: hz });
      const gain = new GainNode(context, { gain: 0 });
      const from = context.currentTime + 0.02 + i * NOTE_S;
      gain.gain.setValueAtTime(0, from);
      gain.gain.linearRampToValueAtTime(0.2, from + 0.01);
      gain.gain.linearRampToValueAtTime(0, from + NOTE_S);
      tone.connect(gain).connect(context.destination);
      tone.start(from);
      tone.stop(from + NOTE_S);
    });
    await new Promise((over) => setTimeout(over, 1000 * (NOTES_HZ.length * NOTE_S + 0.1)));
  } finally {
    await context.close();
  }
}
