import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  changesOf,
  createPassageTime,
  createSong,
  createTimeMap,
  type Part,
  type RecordingPart,
  type Song,
} from '@plundra/core/song';
import { chordSymbol, parseChord } from '@plundra/core/theory';
import { chordSources, recordingsToRead, settledChoice, type FoundChords } from './chordSources.ts';
import { takeTempo } from './takeTempo.ts';

const shape = { mark: 'XX', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
const recording = (id: string, startTicks: number, offsetSeconds = 0): RecordingPart => ({
  ...shape,
  kind: 'recording',
  id,
  name: id,
  material: 'guitar',
  passages: [
    {
      type: 'recording',
      id: `${id} passage`,
      startTicks,
      recordingHash: id.repeat(64),
      offsetSeconds,
      durationSeconds: 20,
      line: null,
    },
  ],
});
const notes: Part = { ...shape, kind: 'notes', id: 'n', name: 'n', program: 0, passages: [] };
const chord = (symbol: string) => {
  const parsed = parseChord(symbol);
  if ('error' in parsed) throw new Error(symbol);
  return parsed.chord;
};
let next = 0;
const createId = () => `id${next++}`;

describe('what chords are read from', () => {
  const song: Song = { ...createSong('s', 'Song'), parts: [recording('a', 0), recording('b', 3840), notes] };
  const sources = chordSources(song);

  it('is several recordings, or one note part alone', () => {
    expect(settledChoice(['a'], ['a', 'b'], sources)).toEqual(['a', 'b']);
    expect(settledChoice(['a', 'b'], ['a', 'b', 'n'], sources)).toEqual(['n']);
    expect(settledChoice(['n'], ['n', 'a'], sources)).toEqual(['a']);
  });

  it('is counted in seconds of the recording that begins first', () => {
    const time = createTimeMap(song);
    // Bar 2 at 120 bpm is at 2 s; what lies before its offset is not heard but counts.
    const late = recording('b', 3840, 0.5);
    const { request, found } = recordingsToRead([late, recording('a', 0)], time);
    expect(request).toEqual({
      recordingHash: 'a'.repeat(64),
      type: 'chords',
      together: [{ recordingHash: 'b'.repeat(64), laterSeconds: 1.5 }],
    });
    expect(found.name).toBe('2 recordings');
    expect(found.keeper).toBeUndefined();
    const alone = recordingsToRead([late], time);
    expect(alone.request.together).toBeUndefined();
    expect(alone.found.keeper).toEqual({ partId: 'b', passageId: 'b passage' });
  });
});

describe('the tempo of a reading as the song’s', () => {
  const song: Song = { ...createSong('s', 'Song'), parts: [recording('a', 0), recording('b', 1920)] };
  const time = createTimeMap(song);
  // 90 bpm, bars of 2.667 s from 0.4 s on.
  const bar = 240 / 90;
  const found: FoundChords = {
    name: 'a',
    chords: ['G', 'C', 'D'].map((symbol, i) => ({
      startSeconds: 0.4 + i * bar,
      endSeconds: 0.4 + (i + 1) * bar,
      chord: chord(symbol),
      confidence: 1,
      alternatives: [],
    })),
    keys: [],
    keyChanges: [],
    tempo: { bpm: 90, beats: [], downbeats: [0.4, 0.4 + bar], beatsPerBar: 4 },
    passage: song.parts[0].passages[0] as FoundChords['passage'],
  };
  const taken = applyEdit(song, {
    type: 'batch',
    edits: takeTempo(song, time, found, 90, 'bar', createId),
  }).song;
  const after = createTimeMap(taken);

  it('puts the first bar line that was heard on one of the song, and chords on theirs', () => {
    expect(taken.tempoMap).toEqual([{ startTicks: 0, bpm: 90 }]);
    expect(changesOf(taken).map((each) => [each.startTicks / 3840, chordSymbol(each.chord)])).toEqual([
      [1, 'G'],
      [2, 'C'],
      [3, 'D'],
    ]);
    const origin = createPassageTime(
      taken.parts[0].passages[0] as FoundChords['passage'],
      after,
    ).originSeconds;
    expect(Math.abs(after.barStartTicks(2) - after.ticksAt(origin + 0.4))).toBeLessThan(2);
  });

  it('keeps recordings together', () => {
    const starts = taken.parts.map(({ passages }) => after.secondsAt(passages[0].startTicks));
    expect(starts[1] - starts[0]).toBeCloseTo(1, 2);
  });
});
