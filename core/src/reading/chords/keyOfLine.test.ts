import { describe, expect, it } from 'vitest';
import { keyName, keyOn } from '../../theory/index.ts';
import { KEYS, LOWEST_KEY, type Activations } from '../chordal/index.ts';
import { ALL_KEYS, guessKeys, type ChordEvidence } from './keyOf.ts';
import { keyOfLine, lineKeyInputs } from './keyOfLine.ts';
import { keyOfLoop } from './keyOfLoop.ts';

/** Each of these pitches for so many frames; null is silence. */
function line(...notes: (readonly [midi: number | null, frames: number])[]): Activations {
  const frames = notes.reduce((sum, [, count]) => sum + count, 0);
  const active = new Uint8Array(frames * KEYS);
  let frame = 0;
  for (const [midi, count] of notes)
    for (let i = 0; i < count; i++, frame++)
      if (midi !== null) active[frame * KEYS + midi - LOWEST_KEY] = 255;
  return { frames, active } as unknown as Activations;
}
const beats = (...midi: number[]) => line(...midi.map((each) => [each, 40] as const));

describe('the key of a single line', () => {
  it('is that whose scale it uses', () => {
    // A bass walking through F, B♭ and C.
    const found = keyOfLine(beats(41, 45, 48, 50, 46, 50, 53, 50, 48, 52, 55, 52, 41, 48, 45, 43))!;
    expect(keyName(found.key)).toBe('F major');
    expect(found.confidence).toBeGreaterThan(0.5);
  });

  it('is, of two with the same notes, the one that it begins and ends on', () => {
    // The white keys from C to C and from A to A.
    expect(keyName(keyOfLine(beats(60, 62, 64, 65, 67, 69, 71, 72))!.key)).toBe('C major');
    expect(keyName(keyOfLine(beats(57, 59, 60, 62, 64, 65, 67, 69))!.key)).toBe('A minor');
  });

  it('of a bass is that of the root it begins on, which tunes alone do not say', () => {
    // Two bars on E, in eighths, and two on C and D (a figure of our own).
    const onE = [40, 40, 40, 47, 40, 40, 43, 45];
    const bass = [...onE, ...onE, 36, 36, 36, 43, 36, 36, 40, 40, 38, 38, 38, 45, 38, 38, 42, 42];
    const found = keyOfLine(beats(...bass))!;
    expect(keyName(found.key)).toBe('E minor');
    expect(found.confidence).toBeGreaterThan(0.5);
  });

  it('is judged by what sounds, early above all, begins and ends, each counted from the tonic', () => {
    const only = (sounding: number) =>
      Array.from({ length: 12 }, (_, pitchClass) => (pitchClass === sounding ? 5 : 0));
    const marks = (tonic: number) =>
      lineKeyInputs({ use: only(9), early: only(4), first: 7, last: 2 }, keyOn(tonic, 'major')).flatMap(
        (value, i) => (value === 1 ? [i] : []),
      );
    // A sounds, E at first, G begins, D ends; and what says the mode.
    expect(marks(0)).toEqual([9, 12 + 7, 24 + 2, 36, 37 + 4]);
    expect(marks(7)).toEqual([2, 12, 24 + 7, 36, 37 + 9]);
  });

  it('is the one whose notes it has at its beginning, where the rest says little', () => {
    // The same notes for as long, begun and ended by the same: over C at first and then over G, and the other way round.
    const [c, g] = [
      [60, 64, 67, 72, 67, 64],
      [67, 71, 74, 71, 67, 71],
    ];
    expect(keyName(keyOfLine(beats(60, ...c, ...g, ...g, 60))!.key)).toBe('C major');
    expect(keyName(keyOfLine(beats(60, ...g, ...g, ...c, 60))!.key)).toBe('G major');
    // Silence before it is not its beginning.
    const late = line([null, 1000], ...[60, ...c, ...g, ...g, 60].map((midi) => [midi, 40] as const));
    expect(keyOfLine(late)).toEqual(keyOfLine(beats(60, ...c, ...g, ...g, 60)));
  });

  it('is told by the seventh and the fourth: with F sharp it is another than with F', () => {
    // The first bars of "Twinkle, twinkle" (as everybody knows them), in C and in G.
    const tune = [60, 60, 67, 67, 69, 69, 67, 65, 65, 64, 64, 62, 62, 60];
    expect(keyName(keyOfLine(beats(...tune))!.key)).toBe('C major');
    expect(keyName(keyOfLine(beats(...tune.map((each) => each + 7)))!.key)).toBe('G major');
    expect(keyName(keyOfLine(beats(67, 71, 74, 71, 72, 69, 66, 69, 67))!.key)).toBe('G major');
    expect(keyName(keyOfLine(beats(67, 71, 74, 71, 72, 69, 65, 69, 64, 60))!.key)).toBe('C major');
  });

  it('is not known where hardly anything has a pitch', () => {
    expect(keyOfLine(line([60, 3]))).toBeUndefined();
    expect(
      keyOfLine({ frames: 500, active: new Uint8Array(500 * KEYS) } as unknown as Activations),
    ).toBeUndefined();
  });
});

describe('the key of a loop', () => {
  const chord = (root: number, minor = false): ChordEvidence => ({
    root,
    minor,
    classes: [root, (root + (minor ? 3 : 4)) % 12, (root + 7) % 12],
    weight: 4,
  });
  /** Chords of four beats each, and the notes of an accompaniment that goes through them. */
  const found = (...chords: ChordEvidence[]) => {
    const use = new Float64Array(12);
    for (const { classes, weight } of chords) for (const each of classes) use[each] += weight;
    const sound = beats(...chords.flatMap(({ classes }) => classes.map((each) => 48 + each)));
    return { name: keyName(keyOfLoop({ keys: guessKeys(use, chords), chords }, sound)!.key), use };
  };

  it('of two chords that lie in two keys is that of the first, whichever way round they are', () => {
    expect(found(chord(0), chord(9, true)).name).toBe('C major');
    expect(found(chord(9, true), chord(0)).name).toBe('A minor');
    expect(found(chord(5), chord(0)).name).toBe('F major');
  });

  it('is another where the chords say so: a first chord is not everything', () => {
    // ii V I IV of C, four times round (a cadence as in any textbook).
    const cadence = [chord(2, true), chord(7), chord(0), chord(5)];
    expect(found(...cadence, ...cadence, ...cadence, chord(2, true), chord(7), chord(0), chord(0)).name).toBe(
      'C major',
    );
  });

  it('is that of what sounds over a first chord that leads elsewhere', () => {
    const keys = ALL_KEYS.map((key) => ({ key, confidence: 1 / 24 }));
    const sound = beats(60, 62, 64, 65, 67, 69, 71, 72, 67, 65, 64, 60);
    expect(keyName(keyOfLoop({ keys, chords: [chord(6, true)] }, sound)!.key)).toBe('C major');
  });

  it('is major or minor as its first chord is, where little else says so', () => {
    // Roots and fifths that lie in both, and as many thirds of either.
    const sound = beats(48, 55, 51, 52, 48, 55);
    const keys = ALL_KEYS.map((key) => ({ key, confidence: 1 / 24 }));
    const name = (minor: boolean) => keyName(keyOfLoop({ keys, chords: [chord(0, minor)] }, sound)!.key);
    expect([name(false), name(true)]).toEqual(['C major', 'C minor']);
  });

  it('of a line alone is that of the line', () => {
    const sound = beats(60, 62, 64, 65, 67, 69, 71);
    expect(keyOfLoop({ keys: [], chords: [] }, sound)).toEqual(keyOfLine(sound));
  });
});
