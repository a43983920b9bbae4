/** Names of pitch classes: letters with accidentals, chosen by the key. */
import { prefersFlats, scaleSteps, tonicName, tonicPitchClass, type Key } from './key.ts';
import { mod12 } from './pitch.ts';

const LETTERS = ['C', 'D', 'E', 'F', 'G', 'A', 'B'];
const LETTER_CLASSES = [0, 2, 4, 5, 7, 9, 11];
const SHARPS = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B'];
const FLATS = ['C', 'Db', 'D', 'Eb', 'E', 'F', 'Gb', 'G', 'Ab', 'A', 'Bb', 'B'];

/** Pitch class of "F#", "Bb", "Cb" …; undefined when it is no name. */
export function pitchClassOf(name: string): number | undefined {
  const match = /^([A-G])(#*|b*)$/.exec(name);
  if (!match) return undefined;
  const shift = match[2].startsWith('b') ? -match[2].length : match[2].length;
  return mod12(LETTER_CLASSES[LETTERS.indexOf(match[1])] + shift);
}

/** The name that lies `letters` letters above another and sounds as `pitchClass`. */
export function nameAbove(name: string, letters: number, pitchClass: number): string {
  const letter = (((LETTERS.indexOf(name[0]) + letters) % 7) + 7) % 7;
  let shift = mod12(pitchClass - LETTER_CLASSES[letter]);
  if (shift > 6) shift -= 12;
  return LETTERS[letter] + (shift < 0 ? 'b' : '#').repeat(Math.abs(shift));
}

/**
 * Letters above a tonic or root for each of the twelve steps (common practice): ♭2 ♭3 ♯4 ♭6 ♭7, so that in major the notes
 * outside the scale but for ♯4 come from the parallel minor, and in minor the raised degrees keep their letters.
 */
const LETTERS_ABOVE = [0, 1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 6];

/** The usual name of a note over a root that is not one of its chord's own: D over C, B♭ over C, F♯ over C. */
export function nameOver(root: string, pitchClass: number): string {
  const name = nameAbove(root, LETTERS_ABOVE[mod12(pitchClass - pitchClassOf(root)!)], pitchClass);
  return name.length <= 2 ? name : (name.includes('b') ? FLATS : SHARPS)[mod12(pitchClass)];
}

/** Name of the nearest note with its octave, spelled in a key: in C♯ major MIDI 60 is B♯3. */
export function noteNameIn(midi: number, key: Key | null): string {
  const nearest = Math.round(midi);
  const name = key ? spellInKey(nearest, key) : SHARPS[mod12(nearest)];
  const accidentals = (name.match(/#/g)?.length ?? 0) - (name.match(/b/g)?.length ?? 0);
  return `${prettyName(name)}${Math.floor((nearest - accidentals) / 12) - 1}`;
}

/** Name of a pitch class in a key; without one sharps, with B♭ and E♭. Never a double accidental. */
export function spellInKey(pitchClass: number, key: Key | null): string {
  const step = mod12(pitchClass);
  if (!key) return step === 10 || step === 3 ? FLATS[step] : SHARPS[step];
  const name = nameAbove(tonicName(key), LETTERS_ABOVE[mod12(step - tonicPitchClass(key))], step);
  if (name.length <= 2 && !['Cb', 'Fb', 'E#', 'B#'].includes(name)) return name;
  const inScale = scaleSteps(key).includes(mod12(step - tonicPitchClass(key)));
  if (inScale && name.length <= 2) return name;
  return (prefersFlats(key) ? FLATS : SHARPS)[step];
}

/** A name moved by semitones, spelled in a key. */
export function transposeName(name: string, semitones: number, key: Key | null): string {
  return spellInKey(mod12(pitchClassOf(name)! + semitones), key);
}

/** With ♯ and ♭ for the screen. */
export function prettyName(name: string): string {
  return name.replace(/#/g, '♯').replace(/b/g, '♭');
}
