/** Chord symbols of a score as chords. */
import { parseChord, semitonesOf, type ChordOrNone } from '../theory/index.ts';
import { child, childrenOf, numberOf, textOf, type Element } from './scoreXml.ts';

/** What follows the root, by the kinds of MusicXML 4.0 (kind-value). */
const SUFFIXES: Record<string, string> = {
  major: '',
  minor: 'm',
  augmented: 'aug',
  diminished: 'dim',
  dominant: '7',
  'major-seventh': 'maj7',
  'minor-seventh': 'm7',
  'diminished-seventh': 'dim7',
  'augmented-seventh': 'aug7',
  'half-diminished': 'm7b5',
  'major-minor': 'm(maj7)',
  'major-sixth': '6',
  'minor-sixth': 'm6',
  'dominant-ninth': '9',
  'major-ninth': 'maj9',
  'minor-ninth': 'm9',
  'dominant-11th': '11',
  'major-11th': 'maj11',
  'minor-11th': 'm11',
  'dominant-13th': '13',
  'major-13th': 'maj13',
  'minor-13th': 'm13',
  'suspended-second': 'sus2',
  'suspended-fourth': 'sus4',
  power: '5',
};

const accidentals = (alter: number) =>
  (alter > 0 ? '#' : 'b').repeat(Math.min(2, Math.abs(Math.round(alter))));

function noteName(of: Element | undefined, prefix: 'root' | 'bass'): string | undefined {
  const step = textOf(of, `${prefix}-step`);
  return step && /^[A-G]$/.test(step) ? step + accidentals(numberOf(of, `${prefix}-alter`) ?? 0) : undefined;
}

/** Undefined where it is not understood. */
export function chordOf(harmony: Element): ChordOrNone | undefined {
  const kind = child(harmony, 'kind');
  if (kind?.text === 'none') return null;
  const root = noteName(child(harmony, 'root'), 'root');
  const suffix = SUFFIXES[kind?.text ?? ''] as string | undefined;
  if (root === undefined || suffix === undefined) return undefined;
  const parsed = parseChord(root + suffix);
  if (!('chord' in parsed) || !parsed.chord) return undefined;
  const degrees = new Set(parsed.chord.degrees);
  for (const degree of childrenOf(harmony, 'degree')) {
    const number = numberOf(degree, 'degree-value');
    const type = textOf(degree, 'degree-type');
    if (number === undefined || number < 1 || number > 13) return undefined;
    if (type !== 'add')
      for (const each of [...degrees]) if (each.replace(/[b#]/g, '') === String(number)) degrees.delete(each);
    if (type !== 'subtract') degrees.add(accidentals(numberOf(degree, 'degree-alter') ?? 0) + String(number));
  }
  if (degrees.size === 0) return undefined;
  const bass = noteName(child(harmony, 'bass'), 'bass');
  return {
    root,
    degrees: [...degrees].sort((a, b) => semitonesOf(a) - semitonesOf(b)),
    ...(bass !== undefined && bass !== root && { bass }),
  };
}
