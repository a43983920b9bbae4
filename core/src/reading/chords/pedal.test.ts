import { describe, expect, it } from 'vitest';
import { chordSymbol } from '../../theory/index.ts';
import { KEYS, LOWEST_KEY } from '../chordal/index.ts';
import { HOP_SECONDS } from '../melodySettings.ts';
import { evenBars } from './beatGrid.ts';
import { chromaOf } from './chroma.ts';
import { readChordsOfNotes } from './readChords.ts';

const BAR_SECONDS = 2;
const BEATS = 4;

/** One bar for each group of notes; what they are read as, with the beats on which they change. */
function readBars(bars: readonly (readonly number[])[]): string[] {
  const beats = Array.from({ length: bars.length * BEATS }, (_, i) => (i * BAR_SECONDS) / BEATS);
  const notes = bars.flatMap((midis, bar) =>
    midis.map((midi) => ({ startSeconds: bar * BAR_SECONDS, endSeconds: (bar + 1) * BAR_SECONDS, midi })),
  );
  const { chords } = readChordsOfNotes(notes, { seconds: beats, ...evenBars(0, BEATS, beats.length) });
  return chords.map(({ startSeconds, chord }) => `${startSeconds / BAR_SECONDS} ${chordSymbol(chord)}`);
}

const [D, A, G] = [
  [62, 66, 69],
  [61, 64, 69],
  [62, 67, 71],
];

describe('a bass that stays', () => {
  it('lies under other chords, which keep their own names', () => {
    expect(readBars([D, A, G, D].map((above) => [38, ...above]))).toEqual(['0 D', '1 A/D', '2 G/D', '3 D']);
  });

  it('may be heard an octave higher too: A over D is no Dmaj7, and B minor over D no D6', () => {
    const B = [59, 62, 66];
    const E_MINOR = [59, 64, 67];
    expect(readBars([D, A, E_MINOR, G, B, D].map((above) => [26, 38, 50, ...above]))).toEqual([
      '0 D',
      '1 A/D',
      '2 Em/D',
      '3 G/D',
      '4 Bm/D',
      '5 D',
    ]);
  });

  it('tells close chords and strums too, but is not named there', () => {
    const close = [
      [57, 62, 66],
      [57, 61, 64],
      [55, 59, 62],
      [57, 61, 64],
    ].map((above) => [50, ...above, above[0] + 12]);
    expect(readBars(close)).toEqual(['0 D', '1 A', '2 G', '3 A']);
  });

  it('is the root while a line moves within its chord', () => {
    const line = [
      [60, 64, 67],
      [59, 64, 67],
      [57, 64, 67],
      [59, 64, 67],
    ];
    expect(readBars(line.map((above) => [36, ...above]))).toEqual(['0 C', '1 Cmaj7', '2 C6', '3 Cmaj7']);
  });

  it('is the root of a seventh chord whose other notes are a triad', () => {
    const strummed = [45, 52, 55, 60, 64];
    expect(readBars([strummed, strummed, strummed])).toEqual(['0 Am7']);
    const close = [53, 57, 60, 64, 69];
    expect(readBars([close, close, close])).toEqual(['0 Fmaj7']);
  });

  it('is named too where what lies above it stays', () => {
    expect(readBars([A, A, A, A].map((above) => [38, ...above]))).toEqual(['0 A/D']);
  });

  it('may leave its note for a beat', () => {
    const bars = [D, A, G, D].map((above) => [38, ...above]);
    const beats = Array.from({ length: 16 }, (_, i) => i / 2);
    const notes = bars.flatMap((midis, bar) =>
      midis.flatMap((midi) =>
        midi === 38
          ? [0, 1, 2, 3].map((beat) => ({
              startSeconds: bar * 2 + beat / 2,
              endSeconds: bar * 2 + (beat + 1) / 2,
              midi: beat === 3 ? 40 : midi,
            }))
          : [{ startSeconds: bar * 2, endSeconds: bar * 2 + 2, midi }],
      ),
    );
    const { chords } = readChordsOfNotes(notes, { seconds: beats, ...evenBars(0, 4, beats.length) });
    expect(chords.map(({ chord }) => chordSymbol(chord))).toEqual(['D', 'A/D', 'G/D', 'D']);
  });

  it('is no pedal where it moves with the chords', () => {
    expect(
      readBars([
        [38, ...D],
        [33, ...A],
        [43, ...G],
        [38, ...D],
      ]),
    ).toEqual(['0 D', '1 A', '2 G', '3 D']);
  });
});

describe('what sounds above the lowest note', () => {
  it('is told from the activations of a recording', () => {
    const frames = 100;
    const active = new Uint8Array(frames * KEYS);
    for (let frame = 0; frame < frames; frame++)
      for (const midi of [38, ...A]) active[frame * KEYS + midi - LOWEST_KEY] = 250;
    const none = new Uint8Array(0);
    const activations = { active, frames, onset: none, level: none, attack: none, tuningCents: 0 };
    const [span] = chromaOf(activations, [0, frames * HOP_SECONDS]);
    const classes = (of: Float32Array) => [...of.keys()].filter((pitchClass) => of[pitchClass] > 0.9);
    expect(classes(span.sounding)).toEqual([1, 2, 4, 9]);
    expect(classes(span.upper)).toEqual([1, 4, 9]);
    expect(classes(span.upperBass)).toEqual([1]);
  });
});
