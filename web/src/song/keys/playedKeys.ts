/** Which computer key or MIDI key plays what. By place on the keyboard, so that every layout has them in a row. */

/** The middle row, from left to right: one chord key each, or the white keys from C4 on. */
export const ROW_CODES = [
  'KeyA',
  'KeyS',
  'KeyD',
  'KeyF',
  'KeyG',
  'KeyH',
  'KeyJ',
  'KeyK',
  'KeyL',
  'Semicolon',
] as const;

const FIRST_MIDI = 60;
const WHITE_STEPS = [0, 2, 4, 5, 7, 9, 11];
/** The black keys lie on the row above, between the white ones. */
const BLACK_CODES: Record<string, number> = {
  KeyW: 1,
  KeyE: 3,
  KeyT: 6,
  KeyY: 8,
  KeyU: 10,
  KeyO: 13,
  KeyP: 15,
};
/** On a MIDI keyboard the white keys from here on are chord keys. */
const FIRST_CHORD_MIDI = 48;

export function chordKeyOfCode(code: string): number | undefined {
  const index = (ROW_CODES as readonly string[]).indexOf(code);
  return index < 0 ? undefined : index;
}

export function midiOfCode(code: string): number | undefined {
  const white = chordKeyOfCode(code);
  if (white !== undefined) return FIRST_MIDI + 12 * Math.floor(white / 7) + WHITE_STEPS[white % 7];
  return code in BLACK_CODES ? FIRST_MIDI + BLACK_CODES[code] : undefined;
}

export const isBlack = (midi: number): boolean => !WHITE_STEPS.includes(((midi % 12) + 12) % 12);

/** The codes of all keys that play notes, from the lowest note up. */
export const NOTE_CODES: readonly string[] = [...ROW_CODES, ...Object.keys(BLACK_CODES)].sort(
  (a, b) => midiOfCode(a)! - midiOfCode(b)!,
);

/** The chord key of a MIDI key; undefined for black keys and those out of reach. */
export function chordKeyOfMidi(midi: number, count: number): number | undefined {
  const above = midi - FIRST_CHORD_MIDI;
  const step = WHITE_STEPS.indexOf(((above % 12) + 12) % 12);
  const index = 7 * Math.floor(above / 12) + step;
  return step < 0 || index < 0 || index >= count ? undefined : index;
}

/** The letter on a key of the middle row, as most keyboards have it. */
export function letterOfCode(code: string): string {
  return code === 'Semicolon' ? ';' : code.slice(3);
}
