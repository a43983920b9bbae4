/**
 * Voicings: which notes sound for a chord, and how one chord moves to the next. All candidates of a style are made and
 * the one is taken that moves least from the chord before (each voice to the nearest, no voice crossing), or lies nearest
 * to the middle of the range.
 */
import { bassOf, pitchClassesOf, type Chord } from './chord.ts';
import { guitarShape, GUITAR_STRINGS } from './guitarShapes.ts';
import { mod12 } from './pitch.ts';

export const VOICINGS = ['close', 'open', 'drop2', 'rootless', 'keyboard', 'guitar', 'bass'] as const;
export type Voicing = (typeof VOICINGS)[number];

export interface VoicingSettings {
  voicing: Voicing;
  /** Semitones added to all notes: whole octaves. */
  octaves?: number;
  /** The bass of the chord as lowest note, below the rest. Keyboard, guitar and bass have it anyway. */
  withBass?: boolean;
}

/** Where voicings lie: middle of the range, lowest and highest note (common practice for keys; a guitar's frets). */
const RANGES: Record<Voicing, { low: number; high: number; middle: number }> = {
  close: { low: 48, high: 79, middle: 63 },
  open: { low: 43, high: 81, middle: 62 },
  drop2: { low: 46, high: 79, middle: 62 },
  rootless: { low: 50, high: 76, middle: 62 },
  keyboard: { low: 52, high: 79, middle: 64 },
  guitar: { low: 40, high: 79, middle: 55 },
  bass: { low: 28, high: 43, middle: 35 },
};
const BASS_RANGE = { low: 36, high: 50, middle: 42 };
const FRETS_OF_HAND = 4;
const HIGHEST_FRET = 9;
const MAX_VOICES = 5;
/** Below this a third turns muddy (arranging textbooks). */
const LOWEST_CLOSE = 46;

/**
 * MIDI notes of a chord, lowest first.
 * @param previous notes of the chord before, for voice leading
 */
export function voiceChord(
  chord: Chord,
  { voicing, octaves = 0, withBass = false }: VoicingSettings,
  previous: readonly number[] = [],
): number[] {
  const shift = 12 * octaves;
  const before = previous.map((midi) => midi - shift);
  const notes = best(chord, voicing, withBass, before);
  return notes.map((midi) => Math.min(127, Math.max(0, midi + shift)));
}

function best(chord: Chord, voicing: Voicing, withBass: boolean, previous: readonly number[]): number[] {
  if (voicing === 'bass') return [nearestTo(bassOf(chord), previous[0] ?? RANGES.bass.middle, RANGES.bass)];
  if (voicing === 'guitar') {
    return guitarShape(chord, previous) ?? easiestShape(chord);
  }
  const lowest = voicing === 'keyboard' || withBass;
  const uppers = candidates(chord, voicing);
  if (!lowest) return bestOf(uppers, previous, RANGES[voicing].middle);
  const bass = nearestTo(bassOf(chord), previous[0] ?? BASS_RANGE.middle, BASS_RANGE);
  const upper = bestOf(uppers, previous.slice(1), RANGES[voicing].middle);
  return [...new Set([bass, ...upper.filter((midi) => midi > bass)])].sort((a, b) => a - b);
}

/** Notes that make the chord what it is, at most five: the fifth goes first, then the root below a bass. */
function essentialClasses(chord: Chord, voicing: Voicing): number[] {
  let degrees = [...chord.degrees];
  if (voicing === 'rootless' && isWholeWithoutRoot(chord))
    degrees = degrees.filter((degree) => degree !== '1');
  const most = voicing === 'rootless' ? 4 : MAX_VOICES;
  if (degrees.length > most) degrees = degrees.filter((degree) => degree !== '5');
  if (degrees.length > most) degrees = degrees.filter((degree) => degree !== '9');
  return [...new Set(pitchClassesOf({ ...chord, degrees }))];
}

/**
 * Whether a chord is still the same without its root: a triad is not (C without C is E minor's upper half), so it keeps its
 * root in a rootless voicing.
 */
export function isWholeWithoutRoot({ degrees }: Chord): boolean {
  return degrees.length > 3;
}

function candidates(chord: Chord, voicing: Voicing): number[][] {
  const classes = essentialClasses(chord, voicing);
  const { low, high } = RANGES[voicing];
  const found: number[][] = [];
  for (const lowest of classes) {
    for (let start = low + mod12(lowest - low); start <= high; start += 12) {
      const above = classes.map((pitchClass) => start + mod12(pitchClass - start)).sort((a, b) => a - b);
      const spread = spreadOut(above, voicing);
      if (spread[0] >= low && spread[spread.length - 1] <= high) found.push(spread);
    }
  }
  return found;
}

function spreadOut(close: readonly number[], voicing: Voicing): number[] {
  const notes = [...close];
  if (notes.length < 3) return notes;
  if (voicing === 'open') for (let i = 1; i < notes.length; i += 2) notes[i] += 12;
  if (voicing === 'drop2') notes[notes.length - 2] -= 12;
  return notes.sort((a, b) => a - b);
}

/**
 * The easiest shape of a chord that has no usual one: what one hand can hold, a note or none on each string, within four
 * frets or open. It is the same every time.
 */
function easiestShape(chord: Chord): number[] {
  const classes = new Set(essentialClasses(chord, 'guitar'));
  const bass = bassOf(chord);
  const all = new Set([...classes, bass]);
  const found: { notes: number[]; cost: number }[] = [];
  for (let fret = 0; fret <= HIGHEST_FRET; fret++) {
    for (let first = 0; first <= 2; first++) {
      const choices = GUITAR_STRINGS.slice(first).map((string, i) => {
        const reachable = [
          string,
          ...range(Math.max(1, fret), fret + FRETS_OF_HAND - 1).map((f) => string + f),
        ];
        return reachable.filter((midi) => (i === 0 ? mod12(midi) === bass : all.has(mod12(midi))));
      });
      if (choices.some((each) => each.length === 0)) continue;
      for (const notes of product(choices)) {
        const covered = new Set(notes.map(mod12));
        if (![...classes].every((pitchClass) => covered.has(pitchClass))) continue;
        const sorted = [...new Set(notes)].sort((a, b) => a - b);
        const fingers = notes.filter((midi, i) => midi !== GUITAR_STRINGS[first + i]).length;
        found.push({ notes: sorted, cost: fret + fingers * 0.5 + first });
      }
    }
  }
  found.sort((a, b) => a.cost - b.cost);
  return found.at(0)?.notes ?? bestOf(candidates(chord, 'close'), [], RANGES.guitar.middle);
}

function product(choices: readonly number[][]): number[][] {
  return choices.reduce<number[][]>(
    (made, choice) => made.flatMap((notes) => choice.map((midi) => [...notes, midi])),
    [[]],
  );
}

function bestOf(found: readonly number[][], previous: readonly number[], middle: number): number[] {
  let chosen: number[] = [];
  let least = Infinity;
  for (const notes of found) {
    const mean = notes.reduce((sum, midi) => sum + midi, 0) / notes.length;
    const muddy = notes.filter(
      (midi, i) => i > 0 && midi - notes[i - 1] < 5 && notes[i - 1] < LOWEST_CLOSE,
    ).length;
    const cost =
      (previous.length > 0
        ? movement(previous, notes) + 0.1 * Math.abs(mean - middle)
        : Math.abs(mean - middle)) +
      6 * muddy;
    if (cost < least) {
      least = cost;
      chosen = notes;
    }
  }
  return chosen;
}

/**
 * How far voices move, in semitones. Equally many: lowest to lowest, and so on, which moves least and never crosses;
 * else every note to the nearest.
 */
export function movement(from: readonly number[], to: readonly number[]): number {
  if (from.length === to.length) return to.reduce((sum, midi, i) => sum + Math.abs(midi - from[i]), 0);
  if (from.length === 0 || to.length === 0) return 0;
  const nearest = (midi: number, others: readonly number[]) =>
    Math.min(...others.map((other) => Math.abs(other - midi)));
  const longer = to.length > from.length ? to : from;
  const shorter = to.length > from.length ? from : to;
  return longer.reduce((sum, midi) => sum + nearest(midi, shorter), 0);
}

function nearestTo(pitchClass: number, midi: number, { low, high }: { low: number; high: number }): number {
  let chosen = low + mod12(pitchClass - low);
  for (let each = chosen; each <= high; each += 12)
    if (Math.abs(each - midi) < Math.abs(chosen - midi)) chosen = each;
  return chosen;
}

function range(from: number, to: number): number[] {
  return Array.from({ length: Math.max(0, to - from + 1) }, (_, i) => from + i);
}
