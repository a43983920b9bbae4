/**
 * Chords: what is written ("F♯m7♭5/C"), what sounds (pitch classes over a root), and the way between the two.
 *
 * Degrees are those of the major scale on the root with accidentals, as in Harte et al. 2005 ("Symbolic representation
 * of musical chords"): maj7 = 1 3 5 7, half-diminished = 1 b3 b5 b7. A thirteenth chord leaves its eleventh out, as
 * players do (and npm `tonal`); in Harte's shorthand it is in.
 */
import { type Key } from './key.ts';
import { mod12 } from './pitch.ts';
import { nameAbove, nameOver, pitchClassOf, spellInKey, transposeName } from './spelling.ts';

export type Degree = string;

export interface Chord {
  /** Name of the root: a letter with any number of # or b. */
  root: string;
  /** Lowest first; the root, '1', is the first of them. */
  degrees: readonly Degree[];
  /** Where another note than the root is lowest. */
  bass?: string;
}

/** `null` is the absence of harmony, written N.C. */
export type ChordOrNone = Chord | null;

export type ParsedChord = { chord: ChordOrNone } | { error: string };

/** Suffixes that chords are written with, canonical spelling first; then other spellings that are understood. */
const QUALITIES: readonly { degrees: string; names: readonly string[] }[] = [
  { degrees: '1 3 5', names: ['', 'maj', 'M', 'major'] },
  { degrees: '1 b3 5', names: ['m', 'min', '-', 'mi', 'minor'] },
  { degrees: '1 b3 b5', names: ['dim', 'o', '°'] },
  { degrees: '1 3 #5', names: ['aug', '+'] },
  { degrees: '1 2 5', names: ['sus2'] },
  { degrees: '1 4 5', names: ['sus4', 'sus'] },
  { degrees: '1 5', names: ['5'] },
  { degrees: '1 3 5 6', names: ['6', 'maj6', 'M6'] },
  { degrees: '1 b3 5 6', names: ['m6', 'min6', '-6'] },
  { degrees: '1 3 5 b7', names: ['7', 'dom7'] },
  { degrees: '1 3 5 7', names: ['maj7', 'M7', 'Δ7', 'Δ', 'ma7', 'j7'] },
  { degrees: '1 b3 5 b7', names: ['m7', 'min7', '-7', 'mi7'] },
  { degrees: '1 b3 b5 b7', names: ['m7b5', 'ø7', 'ø', 'hdim7', 'hdim', 'min7b5', '-7b5'] },
  { degrees: '1 b3 b5 bb7', names: ['dim7', 'o7', '°7'] },
  { degrees: '1 b3 5 7', names: ['mMaj7', 'm(maj7)', 'mM7', 'minmaj7', '-Δ7', '-Δ', 'mmaj7', 'min(maj7)'] },
  { degrees: '1 3 #5 b7', names: ['7#5', '7+', 'aug7', '+7'] },
  { degrees: '1 3 #5 7', names: ['maj7#5', 'M7#5', '+M7', '+maj7', 'augmaj7'] },
  { degrees: '1 3 b5 b7', names: ['7b5'] },
  { degrees: '1 4 5 b7', names: ['7sus4', '7sus'] },
  { degrees: '1 2 5 b7', names: ['7sus2'] },
  { degrees: '1 3 5 9', names: ['add9', 'add2', '2'] },
  { degrees: '1 b3 5 9', names: ['madd9', 'm(add9)', 'madd2', '-add9', 'minadd9'] },
  { degrees: '1 3 5 6 9', names: ['6/9', '69', '6add9'] },
  { degrees: '1 b3 5 6 9', names: ['m6/9', 'm69', '-69'] },
  { degrees: '1 3 5 b7 9', names: ['9', 'dom9'] },
  { degrees: '1 3 5 7 9', names: ['maj9', 'M9', 'Δ9'] },
  { degrees: '1 b3 5 b7 9', names: ['m9', 'min9', '-9', 'mi9'] },
  { degrees: '1 b3 5 7 9', names: ['mMaj9', 'mM9', 'm(maj9)', 'minmaj9'] },
  { degrees: '1 4 5 b7 9', names: ['9sus4', '9sus'] },
  { degrees: '1 5 b7 9 11', names: ['11', 'dom11'] },
  { degrees: '1 b3 5 b7 9 11', names: ['m11', 'min11', '-11', 'mi11'] },
  { degrees: '1 3 5 7 9 11', names: ['maj11', 'M11'] },
  { degrees: '1 3 5 b7 9 13', names: ['13', 'dom13'] },
  { degrees: '1 3 5 7 9 13', names: ['maj13', 'M13', 'Δ13'] },
  { degrees: '1 b3 5 b7 9 11 13', names: ['m13', 'min13', '-13', 'mi13'] },
  { degrees: '1 4 5 b7 9 13', names: ['13sus4', '13sus'] },
  { degrees: '1 3 b7 b9 #9 b13', names: ['7alt', 'alt'] },
];

/** Degrees of every quality that has a name, the commonest first. */
export const KNOWN_DEGREES: readonly (readonly Degree[])[] = QUALITIES.map(({ degrees }) =>
  degrees.split(' '),
);

const SPELLINGS = QUALITIES.flatMap(({ degrees, names }) =>
  names.map((name) => ({ name, degrees: degrees.split(' ') })),
).sort((a, b) => b.name.length - a.name.length);

const NATURAL_SEMITONES = [0, 2, 4, 5, 7, 9, 11];

/** Semitones above the root; degrees beyond the seventh lie in the second octave. */
export function semitonesOf(degree: Degree): number {
  const number = Number(degree.replace(/[b#]/g, ''));
  const shift = (degree.match(/#/g)?.length ?? 0) - (degree.match(/b/g)?.length ?? 0);
  return NATURAL_SEMITONES[(number - 1) % 7] + 12 * Math.floor((number - 1) / 7) + shift;
}

/** Pitch classes 0–11 in the order of the degrees, without the bass. */
export function pitchClassesOf(chord: Chord): number[] {
  const root = pitchClassOf(chord.root)!;
  return chord.degrees.map((degree) => mod12(root + semitonesOf(degree)));
}

/** Pitch class of the lowest note. */
export function bassOf(chord: Chord): number {
  return pitchClassOf(chord.bass ?? chord.root)!;
}

/** Name of a degree over a root, with its own letter: the third of C♯ is E♯. */
export function noteNameOf(root: string, degree: Degree): string {
  const letters = Number(degree.replace(/[b#]/g, '')) - 1;
  return nameAbove(root, letters, mod12(pitchClassOf(root)! + semitonesOf(degree)));
}

/** Name of the lowest note; a note of the chord is spelled as one: C♯ under A7, whatever the key. */
export function bassNameOf(chord: Chord): string {
  const bass = bassOf(chord);
  const own = chord.degrees.find((degree) => mod12(pitchClassOf(chord.root)! + semitonesOf(degree)) === bass);
  return own ? noteNameOf(chord.root, own) : (chord.bass ?? chord.root);
}

/** A chord over another bass than its root, spelled as the chord wants it. */
function overBass(chord: Chord, bass: number): Chord {
  const { bass: _, ...plain } = chord;
  if (mod12(bass) === pitchClassOf(chord.root)) return plain;
  return { ...plain, bass: bassNameOf({ ...plain, bass: nameOver(chord.root, bass) }) };
}

export const NO_CHORD = 'N.C.';

/**
 * Reads a typed chord: "Dm", "F#m7b5", "Bb/D", "Esus4", "A7(b9)", "N.C.". An answer that is an error names the part that
 * was not understood.
 */
export function parseChord(text: string): ParsedChord {
  const typed = text.trim().replace(/♯/g, '#').replace(/♭/g, 'b').replace(/\s+/g, '');
  if (/^(n\.?c\.?|n)$/i.test(typed)) return { chord: null };
  const named = /^([A-Ga-g])(##|#|bb|b|x)?/.exec(typed);
  if (!named)
    return { error: `“${text.trim()}” does not start with a note: type a letter from A to G, or N.C.` };
  const root = named[1].toUpperCase() + (named[2] ?? '').replace('x', '##');
  let rest = typed.slice(named[0].length);

  // The slash of 6/9 belongs to the quality.
  let bass: string | undefined;
  const slash = /\/(?!9)([^/]*)$/.exec(rest);
  if (slash) {
    const low = /^([A-Ga-g])(##|#|bb|b|x)?$/.exec(slash[1]);
    if (!low) return { error: `“${slash[1]}” after the slash is not a note. Type a bass such as ${root}/E.` };
    bass = low[1].toUpperCase() + (low[2] ?? '').replace('x', '##');
    rest = rest.slice(0, slash.index);
  }
  const base = SPELLINGS.find(({ name }) => rest.startsWith(name) && canEndHere(name, rest))!;
  const degrees = new Set(base.degrees);
  const changed = applyChanges(degrees, rest.slice(base.name.length));
  if (changed !== '')
    return {
      error: `“${changed}” in “${text.trim()}” is not understood. Known are, after the root: m, dim, aug, sus2, sus4, 5, 6, 7, maj7, 9, 11, 13, add9, and changes such as b5 or (#11).`,
    };
  const sorted = [...degrees].sort((a, b) => semitonesOf(a) - semitonesOf(b));
  const chord: Chord = { root, degrees: sorted };
  if (bass === undefined || pitchClassOf(bass) === pitchClassOf(root)) return { chord };
  return { chord: { ...chord, bass: bassNameOf({ ...chord, bass }) } };
}

/** "m" must not take the m of "maj7", nor "" hide a known word. */
function canEndHere(name: string, rest: string): boolean {
  return !(/^(m|-|mi|min)?$/.test(name) && /^(maj|M|Δ)/.test(rest.slice(name.length)) && name !== '');
}

const CHANGE = /^[(,]*(add|no|omit|sus|alt|maj|M)?([b#]{0,2})(13|11|[2-79])?\)*/;

/** Applies b5, #9, add11, sus4, no3 …; returns what is left over, '' when all was understood. */
function applyChanges(degrees: Set<Degree>, text: string): string {
  let rest = text;
  while (rest !== '' && !/^[(),]+$/.test(rest)) {
    const match = CHANGE.exec(rest);
    if (!match || match[3] === undefined) return rest;
    const [whole, word, accidentals, number] = match;
    const degree = accidentals + number;
    if (word === 'no' || word === 'omit') {
      for (const each of [...degrees]) if (each.replace(/[b#]/g, '') === number) degrees.delete(each);
    } else if (word === 'sus') {
      for (const third of ['3', 'b3']) degrees.delete(third);
      degrees.add(number);
    } else if (word === 'maj' || word === 'M') {
      if (number !== '7') return rest;
      degrees.delete('b7');
      degrees.add('7');
    } else if (word === 'add') degrees.add(upperDegree(degree));
    else if (accidentals === '') return rest;
    else {
      if (number === '5') degrees.delete('5');
      if (number === '9' || number === '13' || number === '11') degrees.delete(number);
      degrees.add(number === '2' || number === '4' || number === '6' ? upperDegree(degree) : degree);
    }
    rest = rest.slice(whole.length);
  }
  return '';
}

/** A second that is added is a ninth; an added sixth stays. */
function upperDegree(degree: Degree): Degree {
  const number = Number(degree.replace(/[b#]/g, ''));
  const accidentals = degree.replace(/[0-9]/g, '');
  return number === 2 || number === 4 ? `${accidentals}${number + 7}` : degree;
}

/** The suffix of a set of degrees: the quality that fits best, with what it lacks or has besides. */
export function suffixOf(degrees: readonly Degree[]): string {
  const all = new Set(degrees);
  let best = { cost: Infinity, suffix: '' };
  for (const quality of QUALITIES) {
    const own = quality.degrees.split(' ');
    const missing = own.filter((degree) => !all.has(degree) && degree !== '1');
    const more = degrees.filter((degree) => !own.includes(degree));
    const altersFifth = more.some((degree) => degree === 'b5' || degree === '#5');
    const lacking = missing.filter((degree) => !(degree === '5' && altersFifth));
    // Without a third or seventh it is another chord.
    const unsayable = lacking.filter((degree) => !['5', '3', 'b3'].includes(degree)).length;
    const cost = more.length + 2 * lacking.length + 100 * unsayable;
    if (cost >= best.cost) continue;
    const said = [
      ...more.map((degree) => (/[b#]/.test(degree) ? degree : `add${degree}`)),
      ...lacking.map((degree) => `no${degree.replace(/[b#]/g, '')}`),
    ];
    // After a bare root "b9" would be taken for a flat root: Cb9.
    const suffix = said.length === 0 ? quality.names[0] : `${quality.names[0]}(${said.join(',')})`;
    best = { cost, suffix };
  }
  return best.suffix;
}

/** As typed: "F#m7b5/C", "N.C.". Reads back to the same chord. */
export function chordSymbol(chord: ChordOrNone): string {
  if (!chord) return NO_CHORD;
  return `${chord.root}${suffixOf(chord.degrees)}${chord.bass ? `/${bassNameOf(chord)}` : ''}`;
}

/** Harte's label, "A:min7/5" style with note intervals in parentheses: "F#:(1,b3,b5,b7)/b5", "N". */
export function harteLabel(chord: ChordOrNone): string {
  if (!chord) return 'N';
  const bass = chord.bass ? `/${intervalName(chord.root, chord.bass)}` : '';
  return `${chord.root}:(${chord.degrees.join(',')})${bass}`;
}

function intervalName(root: string, bass: string): Degree {
  const semitones = mod12(pitchClassOf(bass)! - pitchClassOf(root)!);
  return ['1', 'b2', '2', 'b3', '3', '4', 'b5', '5', 'b6', '6', 'b7', '7'][semitones];
}

/** The chord moved, spelled as the key wants it. */
export function transposeChord(chord: ChordOrNone, semitones: number, key: Key | null): ChordOrNone {
  if (!chord) return null;
  const moved = { ...chord, root: transposeName(chord.root, semitones, key) };
  return chord.bass ? overBass(moved, bassOf(chord) + semitones) : moved;
}

/** A chord on a pitch class, spelled in a key. */
export function chordOn(
  root: number,
  degrees: readonly Degree[],
  key: Key | null,
  bass: number = root,
): Chord {
  return overBass({ root: spellInKey(root, key), degrees }, bass);
}

/** Whether two chords sound the same pitch classes over the same bass. */
export function sameSound(a: ChordOrNone, b: ChordOrNone): boolean {
  if (!a || !b) return a === b;
  const set = (chord: Chord) => [...new Set(pitchClassesOf(chord))].sort((x, y) => x - y).join();
  return bassOf(a) === bassOf(b) && pitchClassOf(a.root) === pitchClassOf(b.root) && set(a) === set(b);
}
