/** Chords in a key: Roman numerals, what they do there, and notes as degrees of a chord. */
import {
  bassNameOf,
  bassOf,
  noteNameOf,
  pitchClassesOf,
  semitonesOf,
  suffixOf,
  type Chord,
  type Degree,
} from './chord.ts';
import { degreeOf, parallelKey, scaleSteps, tonicPitchClass, type Key } from './key.ts';
import { mod12 } from './pitch.ts';
import { pitchClassOf, spellInKey } from './spelling.ts';

const NUMERALS = ['I', 'II', 'III', 'IV', 'V', 'VI', 'VII'];
/** Degree and accidental of the twelve steps, against the scale of the key (common practice: ♭VII in G major is F). */
const STEPS: Record<Key['mode'], readonly [degree: number, accidental: '' | 'b' | '#'][]> = {
  major: [
    [1, ''],
    [2, 'b'],
    [2, ''],
    [3, 'b'],
    [3, ''],
    [4, ''],
    [4, '#'],
    [5, ''],
    [6, 'b'],
    [6, ''],
    [7, 'b'],
    [7, ''],
  ],
  minor: [
    [1, ''],
    [2, 'b'],
    [2, ''],
    [3, ''],
    [3, '#'],
    [4, ''],
    [4, '#'],
    [5, ''],
    [6, ''],
    [6, '#'],
    [7, ''],
    [7, '#'],
  ],
};

export interface ChordInKey {
  /** "ii7", "V7/vi", "bVII". */
  numeral: string;
  /** How it belongs to the key. */
  belongs: 'in the key' | 'leads to another chord' | 'borrowed' | 'outside the key';
}

/** Roman numeral of a chord, and how it belongs to the key. */
export function chordInKey(chord: Chord, key: Key): ChordInKey {
  const classes = pitchClassesOf(chord);
  const within = (each: Key) => classes.every((pitchClass) => degreeOf(pitchClass, each) !== undefined);
  if (within(key)) return { numeral: numeralOf(chord, key), belongs: 'in the key' };
  // The dominant of a minor key has a raised third (harmonic minor).
  const step = mod12(classes[0] - tonicPitchClass(key));
  const isDominant = chord.degrees.includes('3') && !chord.degrees.includes('7');
  const isLeading = chord.degrees.includes('b3') && chord.degrees.includes('b5');
  const raised = key.mode === 'minor' && ((step === 7 && isDominant) || (step === 11 && isLeading));
  if (raised) return { numeral: numeralOf(chord, key), belongs: 'in the key' };
  if (within(parallelKey(key))) return { numeral: numeralOf(chord, key), belongs: 'borrowed' };
  const target = mod12(step + 5);
  const targetDegree = scaleSteps(key).indexOf(target);
  if (isDominant && targetDegree > 0) {
    const minor = scaleSteps(key).includes(mod12(target + 3));
    const numeral = NUMERALS[targetDegree];
    const of = minor && !scaleSteps(key).includes(mod12(target + 4)) ? numeral.toLowerCase() : numeral;
    const seventh = chord.degrees.includes('b7') ? '7' : '';
    return { numeral: `V${seventh}/${of}`, belongs: 'leads to another chord' };
  }
  return { numeral: numeralOf(chord, key), belongs: 'outside the key' };
}

function numeralOf(chord: Chord, key: Key): string {
  const [degree, accidental] = STEPS[key.mode][mod12(pitchClassOf(chord.root)! - tonicPitchClass(key))];
  const minor = chord.degrees.includes('b3');
  const numeral = minor ? NUMERALS[degree - 1].toLowerCase() : NUMERALS[degree - 1];
  const suffix = suffixOf(chord.degrees)
    .replace(/^m(?!aj)/, '')
    .replace(/^Maj/, 'maj')
    .replace(/^dim/, '°')
    .replace(/^aug/, '+')
    .replace(/^7b5$/, minor ? 'ø7' : '7b5');
  return accidental + numeral + suffix;
}

/** What a note is over a chord: "9", "b3", "#11"; against the root, whatever lies in the bass. */
export function degreeOverChord(midi: number, chord: Chord): Degree {
  const step = mod12(Math.round(midi) - pitchClassOf(chord.root)!);
  const own = chord.degrees.find((degree) => mod12(semitonesOf(degree)) === step);
  if (own) return own;
  // Besides the chord's own notes those above it are tensions; a minor third over a major one is a ♯9.
  const minor = chord.degrees.includes('b3');
  return ['1', 'b9', '9', minor ? 'b3' : '#9', minor ? 'b11' : '3', '11', '#11', '5', 'b13', '13', 'b7', '7'][
    step
  ];
}

/** "1st", "2nd", "9th". */
export function ordinal(number: number): string {
  const tens = number % 100;
  const ending =
    tens > 10 && tens < 14 ? 'th' : (['th', 'st', 'nd', 'rd'] as (string | undefined)[])[number % 10];
  return `${number}${ending ?? 'th'}`;
}

/** "9th", "♭3rd" of a chord. */
export function degreeText(degree: Degree): string {
  const accidental = degree.replace(/[0-9]/g, '').replace(/b/g, '♭').replace(/#/g, '♯');
  return accidental + ordinal(Number(degree.replace(/[b#]/g, '')));
}

/** What a chord does in a key: of rest, of leaving, or wanting to come home (common practice). */
export type ChordFunction = 'home' | 'away' | 'leading';

export function functionOf(chord: Chord, key: Key): ChordFunction {
  const step = mod12(pitchClassOf(chord.root)! - tonicPitchClass(key));
  const major = chord.degrees.includes('3');
  const seventh = chord.degrees.includes('b7');
  if (major && seventh) return 'leading';
  if (chord.degrees.includes('b5') && chord.degrees.includes('b3')) return 'leading';
  if (step === 7) return major ? 'leading' : 'away';
  if (key.mode === 'major' ? step === 0 || step === 9 || step === 4 : step === 0 || step === 3) return 'home';
  return 'away';
}

/** Notes of the chord by name, spelled from its root (C♯7 is C♯ E♯ G♯ B in any key); the bass first where it is another. */
export function noteNamesOf(chord: Chord): string[] {
  const names = chord.degrees.map((degree) => noteNameOf(chord.root, degree));
  return chord.bass && !pitchClassesOf(chord).includes(bassOf(chord)) ? [bassNameOf(chord), ...names] : names;
}

/** Triads and sevenths on every degree of the key, with the dominant that minor keys borrow. */
export function chordsOfKey(key: Key, sevenths = false): Chord[] {
  const steps = scaleSteps(key);
  const chords = steps.map((step, i) => {
    const above = (letters: number) => mod12(steps[(i + letters) % 7] - step);
    const third = above(2) === 4 ? '3' : 'b3';
    const fifth = above(4) === 7 ? '5' : above(4) === 6 ? 'b5' : '#5';
    const seventh = above(6) === 11 ? '7' : 'b7';
    const degrees = ['1', third, fifth, ...(sevenths ? [seventh] : [])];
    return { root: spellInKey(tonicPitchClass(key) + step, key), degrees };
  });
  if (key.mode === 'minor')
    chords.push({ root: chords[4].root, degrees: ['1', '3', '5', ...(sevenths ? ['b7'] : [])] });
  return chords;
}
