import { mod12 } from './pitch.ts';

/** A key: tonic as a pitch class name, and its mode. */
export interface Key {
  tonic: KeyTonic;
  mode: 'major' | 'minor';
}

export const KEY_TONICS = ['C', 'Db', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B'] as const;
export type KeyTonic = (typeof KEY_TONICS)[number];

const MAJOR_STEPS = [0, 2, 4, 5, 7, 9, 11];
const MINOR_STEPS = [0, 2, 3, 5, 7, 8, 10];

export function tonicPitchClass(tonic: KeyTonic): number {
  return KEY_TONICS.indexOf(tonic);
}

/** Scale steps in semitones above the tonic; natural minor for minor keys. */
export function scaleSteps(key: Key): readonly number[] {
  return key.mode === 'major' ? MAJOR_STEPS : MINOR_STEPS;
}

/** Degree 1–7 of a note in the key, or undefined for a note outside the scale. */
export function degreeOf(midi: number, key: Key): number | undefined {
  const step = mod12(Math.round(midi) - tonicPitchClass(key.tonic));
  const index = scaleSteps(key).indexOf(step);
  return index < 0 ? undefined : index + 1;
}

/** Sharps (positive) or flats (negative) of the key signature, −6…6 (circle of fifths). */
export function keySignature(key: Key): number {
  const relativeMajor = mod12(tonicPitchClass(key.tonic) + (key.mode === 'minor' ? 3 : 0));
  const fifths = (relativeMajor * 7) % 12;
  return fifths > 6 ? fifths - 12 : fifths;
}

/** Whether note names of the key are written with flats. */
export function prefersFlats(key: Key | null): boolean {
  return key !== null && keySignature(key) < 0;
}

/** The key of a signature of −7…7 accidentals, as MIDI files carry it. */
export function keyFromSignature(accidentals: number, mode: Key['mode']): Key {
  const major = mod12(accidentals * 7);
  return { tonic: KEY_TONICS[mod12(major - (mode === 'minor' ? 3 : 0))], mode };
}

/** "G major", "B♭ minor". */
export function keyName(key: Key): string {
  return `${key.tonic.replace('b', '♭').replace('#', '♯')} ${key.mode}`;
}
