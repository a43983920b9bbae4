/**
 * How a guitar in standard tuning plays chords: the open shapes and barres that every player knows (common practice), written
 * as frets from the lowest string on, "x" where a string does not sound.
 */
import { bassOf, type Chord } from './chord.ts';
import { mod12 } from './pitch.ts';
import { pitchClassOf } from './spelling.ts';

/** Standard tuning E2 A2 D3 G3 B3 E4. */
export const GUITAR_STRINGS = [40, 45, 50, 55, 59, 64] as const;

/** By root, degrees and bass. */
const OPEN: readonly [root: string, degrees: string, frets: string, bass?: string][] = [
  ['C', '1 3 5', 'x32010'],
  ['C', '1 3 5 b7', 'x32310'],
  ['C', '1 3 5 7', 'x32000'],
  ['C', '1 3 5 9', 'x32030'],
  ['C', '1 3 5', '032010', 'E'],
  ['C', '1 3 5', '332010', 'G'],
  ['D', '1 3 5', 'xx0232'],
  ['D', '1 b3 5', 'xx0231'],
  ['D', '1 3 5 b7', 'xx0212'],
  ['D', '1 3 5 7', 'xx0222'],
  ['D', '1 b3 5 b7', 'xx0211'],
  ['D', '1 2 5', 'xx0230'],
  ['D', '1 4 5', 'xx0233'],
  ['D', '1 3 5', '200232', 'F#'],
  ['D', '1 3 5', 'x00232', 'A'],
  ['E', '1 3 5', '022100'],
  ['E', '1 b3 5', '022000'],
  ['E', '1 3 5 b7', '020100'],
  ['E', '1 3 5 7', '021100'],
  ['E', '1 b3 5 b7', '022030'],
  ['E', '1 4 5', '022200'],
  ['E', '1 4 5 b7', '020200'],
  ['E', '1 3 5', '422100', 'G#'],
  ['F', '1 3 5 7', 'xx3210'],
  ['G', '1 3 5', '320003'],
  ['G', '1 3 5 b7', '320001'],
  ['G', '1 3 5 7', '320002'],
  ['G', '1 3 5 6', '320000'],
  ['G', '1 3 5', 'x20003', 'B'],
  ['G', '1 3 5', 'xx0003', 'D'],
  ['A', '1 3 5', 'x02220'],
  ['A', '1 b3 5', 'x02210'],
  ['A', '1 3 5 b7', 'x02020'],
  ['A', '1 3 5 7', 'x02120'],
  ['A', '1 b3 5 b7', 'x02010'],
  ['A', '1 2 5', 'x02200'],
  ['A', '1 4 5', 'x02230'],
  ['A', '1 4 5 b7', 'x02030'],
  ['A', '1 3 5', 'x42220', 'C#'],
  ['A', '1 3 5', '002220', 'E'],
  ['A', '1 b3 5', '302210', 'G'],
  ['A', '1 b3 5', '002210', 'E'],
  ['A', '1 b3 5', 'x32210', 'C'],
  ['B', '1 3 5 b7', 'x21202'],
];

/** Barres whose root lies on the lowest string at fret 0, and on the next one: moved up to the root. */
const ON_SIXTH: Record<string, string> = {
  '1 3 5': '022100',
  '1 b3 5': '022000',
  '1 3 5 b7': '020100',
  '1 b3 5 b7': '020000',
  '1 3 5 7': '0x110x',
  '1 4 5': '022200',
  '1 4 5 b7': '020200',
  '1 3 5 6': '0x212x',
};
const ON_FIFTH: Record<string, string> = {
  '1 3 5': 'x02220',
  '1 b3 5': 'x02210',
  '1 3 5 b7': 'x02020',
  '1 b3 5 b7': 'x02010',
  '1 3 5 7': 'x02120',
  '1 2 5': 'x02200',
  '1 4 5': 'x02230',
  '1 4 5 b7': 'x02030',
  '1 b3 b5 b7': 'x0101x',
  '1 3 5 6': 'x02222',
  '1 b3 5 6': 'x02212',
};
/** Highest fret of a barre. */
const HIGHEST_BARRE = 9;

/** MIDI notes of frets, lowest string first. */
function notesOf(frets: readonly (number | null)[]): number[] {
  return frets.flatMap((fret, string) => (fret === null ? [] : [GUITAR_STRINGS[string] + fret]));
}

const parse = (frets: string, from = 0): (number | null)[] =>
  [...frets].map((fret) => (fret === 'x' ? null : Number(fret) + from));

/**
 * Shapes of a chord, the usual one first: open, then the barre nearest to the nut. Empty where the chord has no usual
 * shape.
 */
export function usualShapes(chord: Chord): number[][] {
  const degrees = chord.degrees.join(' ');
  const root = pitchClassOf(chord.root)!;
  const bass = bassOf(chord);
  const shapes: number[][] = [];
  for (const [name, of, frets, low] of OPEN)
    if (pitchClassOf(name) === root && of === degrees && pitchClassOf(low ?? name) === bass)
      shapes.push(notesOf(parse(frets)));
  if (bass !== root) return shapes;
  const barres = [ON_SIXTH[degrees], ON_FIFTH[degrees]].flatMap((frets: string | undefined, string) => {
    const fret = mod12(root - GUITAR_STRINGS[string]);
    return frets === undefined || fret > HIGHEST_BARRE || fret === 0
      ? []
      : [{ fret, notes: notesOf(parse(frets, fret)) }];
  });
  barres.sort((a, b) => a.fret - b.fret);
  return [...shapes, ...barres.map(({ notes }) => notes)];
}

/** The mean pitch of a shape may lie so far from the last before another is taken: about half the neck. */
const FAR_SEMITONES = 8;

/**
 * The usual shape: the same for the same chord, unless the hand would travel far to it and another lies much nearer.
 * @param previous notes of the chord before
 */
export function guitarShape(chord: Chord, previous: readonly number[]): number[] | undefined {
  const [usual, ...others] = usualShapes(chord);
  if (!usual || previous.length === 0) return usual;
  const mean = (notes: readonly number[]) => notes.reduce((sum, midi) => sum + midi, 0) / notes.length;
  const travel = (notes: readonly number[]) => Math.abs(mean(notes) - mean(previous));
  if (travel(usual) <= FAR_SEMITONES) return usual;
  const nearest = others.reduce((best, notes) => (travel(notes) < travel(best) ? notes : best), usual);
  return travel(nearest) < travel(usual) / 2 ? nearest : usual;
}
