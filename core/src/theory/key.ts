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

/** The note of the scale nearest to a pitch; of two equally near the lower. */
export function nearestInScale(midi: number, key: Key): number {
  const whole = Math.round(midi);
  let best = whole;
  let least = Infinity;
  for (let candidate = whole - 2; candidate <= whole + 2; candidate++) {
    if (degreeOf(candidate, key) === undefined) continue;
    const distance = Math.abs(candidate - midi);
    if (distance < least - 1e-9) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}

/** The note `steps` degrees of the scale away; notes outside the scale keep their distance to the degree below. */
export function scaleStepAway(midi: number, steps: number, key: Key): number {
  const tonic = tonicPitchClass(key.tonic);
  const pitches = scaleSteps(key);
  const above = mod12(midi - tonic);
  const index = pitches.findLastIndex((step) => step <= above);
  const octave = Math.floor((midi - tonic - above) / 12);
  const target = index + steps;
  const wrapped = ((target % 7) + 7) % 7;
  return tonic + 12 * (octave + Math.floor(target / 7)) + pitches[wrapped] + (above - pitches[index]);
}
