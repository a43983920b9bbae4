import { describe, expect, it } from 'vitest';
import { createSong, createTimeMap, type ChordEntry } from '../song/index.ts';
import { chordSymbol, parseChord, type Chord } from '../theory/index.ts';
import {
  changesOfTake,
  chordKeysOf,
  notesOfTake,
  soundOfChordKey,
  withTone,
  type Press,
} from './chordKeys.ts';

const chord = (text: string) => (parseChord(text) as { chord: Chord }).chord;
const change = (startTicks: number, text: string): ChordEntry => ({
  id: `${startTicks}`,
  startTicks,
  chord: (parseChord(text) as { chord: Chord | null }).chord,
});
const time = createTimeMap(createSong('s', 's'));
let ids = 0;
const createId = () => `${ids++}`;
const press = (startSeconds: number, endSeconds: number, midis: number[], text?: string): Press => ({
  startSeconds,
  endSeconds,
  midis,
  velocity: 90,
  chord: text === undefined ? undefined : chord(text),
});

describe('chord keys', () => {
  it('hold each chord of the song once, at most ten, and no silence', () => {
    const keys = chordKeysOf(['G', 'C', 'N.C.', 'G', 'Am', 'C'].map((text, i) => change(i, text)));
    expect(keys.map((key) => chordSymbol(key.chord))).toEqual(['G', 'C', 'Am']);
    const roots = ['C', 'Db', 'D', 'Eb', 'E', 'F', 'Gb', 'G', 'Ab', 'A', 'Bb', 'B'];
    expect(chordKeysOf(roots.map((text, i) => change(i, text)))).toHaveLength(10);
  });
  it('sound stacked, inverted, with a bass, octaves up', () => {
    expect(soundOfChordKey({ chord: chord('C'), inversion: 0 })).toEqual([60, 64, 67]);
    expect(soundOfChordKey({ chord: chord('C'), inversion: 1 })).toEqual([64, 67, 72]);
    expect(soundOfChordKey({ chord: chord('C'), inversion: 2 })).toEqual([67, 72, 76]);
    // A triad has no third inversion: it stays at the second.
    expect(soundOfChordKey({ chord: chord('C'), inversion: 3 })).toEqual([67, 72, 76]);
    expect(soundOfChordKey({ chord: chord('C/E'), inversion: 0 })).toEqual([40, 60, 64, 67]);
    expect(soundOfChordKey({ chord: chord('G7'), inversion: 3 }, { withBass: true, octaves: -1 })).toEqual([
      31, 53, 55, 59, 62,
    ]);
  });
  it('take a tone in and out again, never the root', () => {
    const added = withTone(chord('Am'), 'b7');
    expect(chordSymbol(added)).toBe('Am7');
    expect(chordSymbol(withTone(added, 'b7'))).toBe('Am');
    expect(withTone(chord('C'), '1').degrees).toContain('1');
  });
});

describe('a take on keys (120 bpm: a quarter lasts half a second)', () => {
  it('stays as it was played, or goes to the grid and lasts a step at least', () => {
    const presses = [press(0.04, 0.9, [60, 64]), press(1.02, 1.05, [62])];
    expect(notesOfTake(presses, 'off', time, createId)).toMatchObject([
      { startTicks: 77, lengthTicks: 1651, midi: 60, velocity: 90 },
      { startTicks: 77, midi: 64 },
      { startTicks: 1958, lengthTicks: 58, midi: 62 },
    ]);
    expect(notesOfTake(presses, '1/8', time, createId)).toMatchObject([
      { startTicks: 0, lengthTicks: 1920, midi: 60 },
      { startTicks: 0, lengthTicks: 1920, midi: 64 },
      { startTicks: 1920, lengthTicks: 480, midi: 62 },
    ]);
  });
  it('ends a note where its pitch is struck again, whatever the order of the presses', () => {
    const notes = notesOfTake([press(0.5, 2, [60]), press(0, 1, [60])], 'off', time, createId);
    expect(notes).toMatchObject([
      { startTicks: 0, lengthTicks: 960 },
      { startTicks: 960, lengthTicks: 2880 },
    ]);
    expect(notesOfTake([press(0, 0.2, [60]), press(0.05, 0.9, [60])], '1/4', time, createId)).toMatchObject([
      { startTicks: 0, lengthTicks: 1920 },
    ]);
  });
  it('becomes changes, without nameless presses and repeated chords', () => {
    const presses = [
      press(0, 0.4, [], 'G'),
      press(0.55, 0.9, [], 'G'),
      press(1, 1.1, []),
      press(2.1, 3, [], 'Am7'),
    ];
    expect(
      changesOfTake(presses, '1/4', time, createId).map((each) => [each.startTicks, chordSymbol(each.chord)]),
    ).toEqual([
      [0, 'G'],
      [3840, 'Am7'],
    ]);
  });
});
