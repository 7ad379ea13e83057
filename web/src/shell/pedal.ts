// Keys that a pedal sends, and what takes their place on a keyboard.
export const FORWARD: readonly string[] = ['PageDown', 'ArrowRight'];
export const BACK: readonly string[] = ['PageUp', 'ArrowLeft'];
