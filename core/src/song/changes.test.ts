import { describe, expect, it } from 'vitest';
import { chordSymbol, parseChord } from '../theory/index.ts';
import {
  applyEdit,
  changeAt,
  changesFromReading,
  chordEntriesOf,
  chordSpans,
  createSong,
  createTimeMap,
  EditError,
  pasteChords,
  planTranspose,
  putChord,
  songSchema,
  splitChord,
  type ChordEntry,
  type ChordEntriesChange,
  type ReadChordAt,
  type PlacedRecording,
  type Song,
} from './index.ts';

const read = (text: string): ChordEntry['chord'] => {
  const parsed = parseChord(text);
  if ('error' in parsed) throw new Error(parsed.error);
  return parsed.chord;
};
const BAR = 3840;
const change = (id: string, startTicks: number, symbol: string): ChordEntry => ({
  id,
  startTicks,
  chord: read(symbol),
});
const ids = () => {
  let next = 0;
  return () => `new${next++}`;
};
const song: Song = {
  ...createSong('s', 'Song'),
  key: { fifths: 1, mode: 'major' },
  changes: [
    change('a', 0, 'G'),
    change('b', BAR, 'Em7'),
    change('c', 2 * BAR, 'C'),
    change('d', 2.5 * BAR, 'D/F#'),
  ],
};
const time = createTimeMap(song);
const after = ({ remove, put }: ChordEntriesChange, from = song) =>
  chordEntriesOf(applyEdit(from, { type: 'changes.put', remove, put }).song).map(
    ({ startTicks, chord }) => `${startTicks / BAR}:${chordSymbol(chord)}`,
  );

describe('the chords of a song', () => {
  it('are part of the song as it is stored, and absent in older ones', () => {
    expect(songSchema.parse(song)).toEqual(song);
    expect(chordEntriesOf(createSong('t', 'Other'))).toEqual([]);
  });

  it('hold until the next', () => {
    expect(changeAt(song.changes!, BAR - 1)?.id).toBe('a');
    expect(changeAt(song.changes!, BAR)?.id).toBe('b');
    expect(changeAt(song.changes!, 1e6)?.id).toBe('d');
    expect(changeAt([], 5)).toBeUndefined();
    expect(chordSpans(song.changes!, 3 * BAR).map(({ endTicks }) => endTicks / BAR)).toEqual([1, 2, 2.5, 3]);
  });

  it('are changed by an edit that can be taken back', () => {
    const edit = { type: 'changes.put' as const, ...putChord(song.changes!, BAR, read('E7'), ids()) };
    const { song: changed, inverse } = applyEdit(song, edit);
    expect(chordEntriesOf(changed).map(({ chord }) => chordSymbol(chord))).toEqual(['G', 'E7', 'C', 'D/F#']);
    expect(applyEdit(changed, inverse).song).toEqual(song);
    // Two chords on one place would have no order.
    expect(() => applyEdit(song, { ...edit, put: [change('x', BAR, 'A')] })).toThrow(EditError);
  });

  it('lose their doubt when they are typed', () => {
    const doubtful = [{ ...change('a', 0, 'G'), confidence: 0.4 }];
    expect(putChord(doubtful, 0, read('G6'), ids()).put[0]).not.toHaveProperty('confidence');
    expect(after(putChord(song.changes!, 960, read('G/B'), ids()))).toContain('0.25:G/B');
  });

  it('are split at a beat', () => {
    const spans = chordSpans(song.changes!, 3 * BAR);
    expect(after(splitChord(spans, 'a', time, ids())!)).toContain('0.5:G');
    const short = chordSpans([change('a', 0, 'C'), change('b', 960, 'D')], BAR);
    expect(splitChord(short, 'a', time, ids())).toBeUndefined();
  });

  it('are pasted as a phrase, and what held behind it holds on', () => {
    const copied = [
      { offsetTicks: 0, chord: read('Am') },
      { offsetTicks: BAR / 2, chord: read('D7') },
    ];
    expect(after(pasteChords(song.changes!, copied, BAR, BAR / 2, ids()))).toEqual([
      '0:G',
      '0.5:Am',
      '1:D7',
      '1.5:Em7',
      '2:C',
      '2.5:D/F#',
    ]);
  });

  it('move with the song to another key', () => {
    const { edit } = planTranspose(song, { fifths: -2, mode: 'major' }, 3);
    expect(chordEntriesOf(applyEdit(song, edit).song).map(({ chord }) => chordSymbol(chord))).toEqual([
      'Bb',
      'Gm7',
      'Eb',
      'F/A',
    ]);
  });
});

describe('chords that are read', () => {
  const passage: PlacedRecording = {
    type: 'recording',
    id: 'p',
    takeId: 't',
    startTicks: BAR,
    recordingHash: 'a'.repeat(64),
    offsetSeconds: 1,
    durationSeconds: 6,
    line: null,
    shownSeconds: { from: 1, to: 7 },
  };
  const found = (startSeconds: number, endSeconds: number, symbol: string): ReadChordAt => ({
    startSeconds,
    endSeconds,
    chord: read(symbol),
    confidence: 0.9,
    alternatives: [],
    sounding: new Array<number>(12).fill(0),
  });
  // 120 bpm: a bar is 2 s; second 1 of the recording lies at bar 2.
  const chords = [found(0, 1.05, 'C'), found(1.05, 3.04, 'G'), found(3.04, 3.3, 'G'), found(3.3, 9, 'Am')];

  it('go to beats or bars, and the report says how far', () => {
    const beats = changesFromReading(chords, [passage], time, 'beat', ids());
    // Two chords fall on the first beat: the later counts; two alike are one.
    expect(beats.changes.map(({ startTicks, chord }) => [startTicks, chordSymbol(chord)])).toEqual([
      [BAR, 'G'],
      [2 * BAR + 960, 'Am'],
    ]);
    expect(beats.furthestSeconds).toBeCloseTo(0.2, 2);
    const bars = changesFromReading(chords, [passage], time, 'bar', ids());
    expect(bars.changes.map(({ startTicks }) => startTicks / BAR)).toEqual([1, 2]);
    const exact = changesFromReading(chords, [passage], time, 'off', ids());
    expect(exact.moved).toBe(0);
    expect(exact.changes.map(({ startTicks }) => startTicks)).toEqual([BAR, BAR + 96, 2 * BAR + 576]);
  });

  it('lie wherever the passages lie that show them; a later passage covers an earlier one', () => {
    const window = (startTicks: number, offsetSeconds: number, durationSeconds: number) => ({
      startTicks,
      offsetSeconds,
      durationSeconds,
    });
    // The first four seconds twice: from bar 1, and from the middle of bar 2 on.
    const passages = [window(3 * BAR, 0, 4), window(0, 4, 4), window(BAR / 2, 0, 1)];
    const { changes } = changesFromReading(chords, passages, time, 'off', ids());
    expect(changes.map(({ startTicks, chord }) => [startTicks / BAR, chordSymbol(chord)])).toEqual([
      [0, 'Am'],
      [0.5, 'C'],
      [3.525, 'G'],
      [4.65, 'Am'],
    ]);
    // Four chords were read; in three passages they have six beginnings.
    const { boundaries, moved } = changesFromReading(chords, passages, time, 'bar', ids());
    expect({ boundaries, moved }).toEqual({ boundaries: 6, moved: 4 });
  });
});
