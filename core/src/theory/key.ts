import { mod12 } from './pitch.ts';

/** A key: its place on the circle of fifths, from which its tonic and its signature follow, and its mode. */
export interface Key {
  /** Sharps (positive) or flats (negative) of the signature, −7…7. */
  fifths: number;
  mode: 'major' | 'minor';
}

const MAX_FIFTHS = 7;
/** Letters by fifths, from F on. */
const FIFTH_LETTERS = 'FCGDAEB';

const MAJOR_STEPS = [0, 2, 4, 5, 7, 9, 11];
const MINOR_STEPS = [0, 2, 3, 5, 7, 8, 10];

/** Fifths from C to the tonic: of a minor key three more than its signature has. */
const tonicFifths = ({ fifths, mode }: Key) => fifths + (mode === 'minor' ? 3 : 0);

/** "F#", "Bb". */
export function tonicName(key: Key): string {
  const place = tonicFifths(key) + 1;
  const accidentals = Math.floor(place / 7);
  return FIFTH_LETTERS[place - 7 * accidentals] + (accidentals < 0 ? 'b' : '#').repeat(Math.abs(accidentals));
}

export function tonicPitchClass(key: Key): number {
  return mod12(tonicFifths(key) * 7);
}

/** All keys of the circle of fifths in one mode, from seven flats to seven sharps. */
export function keysOf(mode: Key['mode']): Key[] {
  return Array.from({ length: 2 * MAX_FIFTHS + 1 }, (_, i) => ({ fifths: i - MAX_FIFTHS, mode }));
}

/** The key of a tonic by name ("C#", "Db"); undefined where no signature writes it, as for G♯ major. */
export function keyNamed(tonic: string, mode: Key['mode']): Key | undefined {
  return keysOf(mode).find((key) => tonicName(key) === tonic);
}

/** The usual key on a pitch class: the one with fewest accidentals; of six sharps and six flats F♯ major and E♭ minor. */
export function keyOn(pitchClass: number, mode: Key['mode']): Key {
  const cost = ({ fifths }: Key) => 2 * Math.abs(fifths) + (fifths < 0 === (mode === 'major') ? 1 : 0);
  return keysOf(mode)
    .filter((key) => tonicPitchClass(key) === mod12(pitchClass))
    .reduce((best, key) => (cost(key) < cost(best) ? key : best));
}

/** Minor on the tonic of a major key, or the other way round; its usual spelling where its own has no signature. */
export function parallelKey({ fifths, mode }: Key): Key {
  const other = mode === 'major' ? 'minor' : 'major';
  const written = fifths + (mode === 'major' ? -3 : 3);
  return Math.abs(written) <= MAX_FIFTHS
    ? { fifths: written, mode: other }
    : keyOn(tonicPitchClass({ fifths, mode }), other);
}

/** The key so many semitones away, as it is usually written. */
export function transposedKey(key: Key, semitones: number): Key {
  return mod12(semitones) === 0 ? key : keyOn(tonicPitchClass(key) + semitones, key.mode);
}

export function sameKey(a: Key | null, b: Key | null): boolean {
  return a === b || (a !== null && b !== null && a.fifths === b.fifths && a.mode === b.mode);
}

/** Scale steps in semitones above the tonic; natural minor for minor keys. */
export function scaleSteps(key: Key): readonly number[] {
  return key.mode === 'major' ? MAJOR_STEPS : MINOR_STEPS;
}

/** Degree 1–7 of a note in the key, or undefined for a note outside the scale. */
export function degreeOf(midi: number, key: Key): number | undefined {
  const step = mod12(Math.round(midi) - tonicPitchClass(key));
  const index = scaleSteps(key).indexOf(step);
  return index < 0 ? undefined : index + 1;
}

/** Whether note names of the key are written with flats. */
export function prefersFlats(key: Key | null): boolean {
  return key !== null && key.fifths < 0;
}

/** "G major", "B♭ minor". */
export function keyName(key: Key): string {
  return `${tonicName(key).replace('b', '♭').replace('#', '♯')} ${key.mode}`;
}

/** The key that a text begins to name: "Db", "c# minor", "e♭ maj", "F♯m". */
export function matchesKey(key: Key, text: string): boolean {
  const typed = text.trim().replace(/♯/g, '#').replace(/♭/g, 'b').replace(/\s+/g, ' ');
  const [, tonic = '', mode = ''] = /^([A-Ga-g][#b]?)? ?(.*)$/.exec(typed) ?? [];
  const named = tonic === '' || tonic[0].toUpperCase() + tonic.slice(1) === tonicName(key);
  const letterOnly = tonic.length === 1 && mode === '' && tonicName(key)[0] === tonic.toUpperCase();
  const inMode = mode === 'm' ? key.mode === 'minor' : key.mode.startsWith(mode.toLowerCase());
  return (named || letterOnly) && inMode;
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
  const tonic = tonicPitchClass(key);
  const pitches = scaleSteps(key);
  const above = mod12(midi - tonic);
  const index = pitches.findLastIndex((step) => step <= above);
  const octave = Math.floor((midi - tonic - above) / 12);
  const target = index + steps;
  const wrapped = ((target % 7) + 7) % 7;
  return tonic + 12 * (octave + Math.floor(target / 7)) + pitches[wrapped] + (above - pitches[index]);
}

/** Semitones from a sung or played note to a voice `steps` degrees of the scale away from it; the note counts as the nearest of the scale. */
export function voiceInterval(midi: number, steps: number, key: Key): number {
  const own = nearestInScale(midi, key);
  return scaleStepAway(own, steps, key) - own;
}
