import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  barsFrom,
  chordEntriesOf,
  createPassageTime,
  createSong,
  createTimeMap,
  evenBpm,
  movedBeat,
  type Part,
  type RecordingPart,
  type RecordingPassage,
  type Song,
} from '@plundra/core/song';
import { chordSymbol, parseChord } from '@plundra/core/theory';
import {
  chordSources,
  overBeats,
  recordingsToRead,
  settledChoice,
  type FoundChords,
} from './chordSources.ts';
import {
  correctedTempo,
  firstTempo,
  hasOwnFrame,
  octavesToTempo,
  planReadChords,
  tempoOf,
  withinNear,
} from './readTempo.ts';

const shape = { mark: 'XX', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
const recording = (id: string, startTicks: number, offsetSeconds = 0): RecordingPart => ({
  ...shape,
  kind: 'recording',
  id,
  name: id,
  material: 'guitar',
  takes: [{ id: `${id} passage`, recordingHash: id.repeat(64), line: null }],
  passages: [
    {
      type: 'recording',
      id: `${id} passage`,
      takeId: `${id} passage`,
      startTicks,
      offsetSeconds,
      durationSeconds: 20,
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
    expect(found.owner).toBeUndefined();
    const alone = recordingsToRead([late], time);
    expect(alone.request.together).toBeUndefined();
    expect(alone.request.beats).toBeUndefined();
    expect(alone.found.owner).toEqual({ partId: 'b', takeId: 'b passage' });
  });

  it('takes the song’s beats along in the same seconds', () => {
    const time = createTimeMap(song);
    // It begins with bar 2, half a second in: its own second 0 lies a beat before the bar line.
    const late = recording('b', 3840, 0.5);
    const { beats } = recordingsToRead([late], time, 'fitting').request;
    expect(beats?.always).toBe(false);
    expect(beats?.seconds.slice(0, 3)).toEqual([0, 0.5, 1]);
    expect(beats?.seconds.at(-1)).toBe(20);
    expect(beats?.downbeats.slice(0, 2)).toEqual([1, 5]);
    expect(recordingsToRead([late], time, 'song').request.beats?.always).toBe(true);
    // With another that begins earlier, seconds are counted from there, up to the end of the later one.
    const both = recordingsToRead([late, recording('a', 0)], time, 'song').request.beats;
    expect(both?.seconds.slice(0, 2)).toEqual([0, 0.5]);
    expect(both?.downbeats.slice(0, 2)).toEqual([0, 4]);
    expect(both?.seconds.at(-1)).toBe(21.5);
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
    tempo: { bpm: 90, beats: [], downbeats: [0.4, 0.4 + bar], beatsPerBar: 4, compound: false, known: false },
    windows: [song.parts[0].passages[0] as RecordingPassage],
  };
  const evenly = {
    bpm: 90,
    metre: { beats: 4, unit: 4 } as const,
    heard: { beats: [0.4], downbeats: [0.4, 0.4 + bar] },
    asPlayed: false,
  };
  const taken = applyEdit(song, {
    type: 'batch',
    edits: planReadChords(song, time, found, evenly, 'bar', createId).edits,
  }).song;
  const after = createTimeMap(taken);

  it('puts the first bar line that was heard on one of the song, and chords on theirs', () => {
    expect(taken.tempoMap).toEqual([{ startTicks: 0, bpm: 90 }]);
    expect(chordEntriesOf(taken).map((each) => [each.startTicks / 3840, chordSymbol(each.chord)])).toEqual([
      [1, 'G'],
      [2, 'C'],
      [3, 'D'],
    ]);
    const origin = createPassageTime(taken.parts[0].passages[0] as RecordingPassage, after).toSong(0);
    expect(Math.abs(after.barStartTicks(2) - after.ticksAt(origin + 0.4))).toBeLessThan(2);
  });

  it('lets the tempo follow beats that were not played evenly, and chords lie on them', () => {
    const beats = [0.4];
    while (beats.length < 40) beats.push(beats[beats.length - 1] + 0.6 + 0.12 * Math.sin(beats.length / 4));
    const tempo = { ...found.tempo!, bpm: 100, beats, downbeats: beats.filter((_, i) => i % 4 === 0) };
    const chords = found.chords.map((each, i) => ({
      ...each,
      startSeconds: beats[4 * i],
      endSeconds: beats[4 * i + 4],
    }));
    const first = firstTempo(tempo)!;
    expect(first).toMatchObject({ asPlayed: true, heard: { beats } });
    const plan = planReadChords(song, time, { ...found, tempo, chords }, first, 'off', createId);
    const freely = applyEdit(song, { type: 'batch', edits: plan.edits }).song;
    const next = createTimeMap(freely);
    const { toTicks } = createPassageTime(freely.parts[0].passages[0] as RecordingPassage, next);
    beats.forEach((at) => {
      const ticks = Math.round(toTicks(at) / 960) * 960;
      expect(Math.abs(next.secondsAt(ticks) - next.secondsAt(toTicks(at)))).toBeLessThan(0.026);
    });
    expect(chordEntriesOf(freely).map(({ startTicks }) => Math.round(startTicks / 96) / 40)).toEqual([
      1, 2, 3,
    ]);
    // Evenly played, one tempo says it all.
    const even = beats.map((_, i) => 0.4 + 0.6 * i);
    expect(firstTempo({ ...tempo, beats: even })?.asPlayed).toBe(false);
    expect(firstTempo({ ...tempo, known: true })).toBeNull();
  });

  it('begins the bars with another beat, and follows beats that were put right by hand', () => {
    const beats = Array.from({ length: 17 }, (_, i) => 0.4 + i * 0.6);
    const tempo = { ...found.tempo!, bpm: 99.8, beats, downbeats: beats.filter((_, i) => i % 4 === 0) };
    const read = firstTempo(tempo)!;
    const inFour = { beats: 4, unit: 4 } as const;
    const later = correctedTempo(tempo, 1, barsFrom(read.heard, 1, 4), inFour);
    // Which beat begins a bar says nothing about how fast they are.
    expect(later).toMatchObject({ bpm: 99.8, beats });
    const chosen = firstTempo(later)!;
    const { edits } = planReadChords(song, time, found, chosen, 'off', createId);
    const after = applyEdit(song, { type: 'batch', edits }).song;
    const next = createTimeMap(after);
    const { toTicks } = createPassageTime(after.parts[0].passages[0] as RecordingPassage, next);
    expect(toTicks(beats[1]) % 3840).toBeLessThan(3);
    const inSix = correctedTempo(tempo, 1, read.heard, { beats: 6, unit: 8 });
    expect(firstTempo(inSix)!.metre).toEqual({ beats: 6, unit: 8 });
    // Counted half as fast, one beat moved: the tempo is that of the beats as they are then.
    const half = tempoOf(tempo, 0.5, '4/4', false);
    const moved = correctedTempo(tempo, 0.5, movedBeat(half.heard, 8, 10.6, 4), inFour);
    expect(moved.beats).toHaveLength(9);
    expect(moved.bpm).toBeCloseTo(evenBpm(moved.beats), 9);
    expect(correctedTempo(tempo, 0.5, half.heard, inFour).bpm).toBeCloseTo(49.9, 9);
  });

  it('is read again over beats that were put right, and keeps them', () => {
    const beats = [0.4, 1, 1.6, 2.25, 2.9, 3.5];
    const tempo = { ...found.tempo!, beats, downbeats: [1, 2.9], beatsPerBar: 3 };
    const asked = overBeats(recordingsToRead([song.parts[0] as RecordingPart], time), tempo, true);
    expect(asked.request.beats).toEqual({ seconds: beats, downbeats: [1, 4], beatsPerBar: 3, always: true });
    expect(firstTempo(asked.found.tempo, asked.found.asPlayed)).toMatchObject({
      asPlayed: true,
      metre: { beats: 3, unit: 4 },
    });
  });

  it('counts what was read by octaves where a typed tempo is no other, and looks for others', () => {
    expect(octavesToTempo(91.7, 92)).toBe(0);
    expect(octavesToTempo(91.7, 184)).toBe(1);
    expect(octavesToTempo(91.7, 45)).toBe(-1);
    expect(octavesToTempo(91.7, 100)).toBeNull();
    expect(octavesToTempo(91.7, 138)).toBeNull();
    expect([30, 10, 92, 240, 400].map(withinNear)).toEqual([60, 80, 92, 120, 200]);
  });

  it('is offered at once only where nothing leans on what the song has', () => {
    expect(hasOwnFrame(song)).toBe(false);
    expect(hasOwnFrame(taken)).toBe(true);
    expect(hasOwnFrame({ ...song, metreMap: [{ startTicks: 0, beats: 3, unit: 4 }] })).toBe(true);
    expect(hasOwnFrame({ ...song, parts: [...song.parts, notes] })).toBe(true);
    expect(hasOwnFrame({ ...song, changes: taken.changes })).toBe(true);
  });

  it('takes a metre of dotted beats, which the tempo counts', () => {
    const { edits } = planReadChords(
      song,
      time,
      found,
      { ...evenly, bpm: 60, metre: { beats: 6, unit: 8 } },
      'bar',
      createId,
    );
    const compound = applyEdit(song, { type: 'batch', edits }).song;
    expect(compound.metreMap).toEqual([{ startTicks: 0, beats: 6, unit: 8 }]);
    expect(compound.tempoMap).toEqual([{ startTicks: 0, bpm: 90 }]);
    expect(createTimeMap(compound).secondsAt(1440)).toBeCloseTo(1);
  });

  it('keeps notes with the recording they were made from, and others in their bars', () => {
    const placed = { type: 'notes' as const, id: 'p', startTicks: 3840, lengthTicks: 960, notes: [] };
    const byHand = { ...notes, passages: [placed] } as Part;
    const made = { ...byHand, id: 'made', madeFromPartId: 'a' } as Part;
    const both = { ...song, parts: [...song.parts, made, byHand] };
    const { edits } = planReadChords(both, time, found, evenly, 'bar', createId);
    const parts = applyEdit(both, { type: 'batch', edits }).song.parts;
    const later =
      after.secondsAt(parts[0].passages[0].startTicks) - time.secondsAt(both.parts[0].passages[0].startTicks);
    const start = (part: (typeof parts)[number]) => part.passages[0].startTicks;
    expect(after.secondsAt(start(parts[2])) - time.secondsAt(start(both.parts[2]))).toBeCloseTo(later, 2);
    expect(start(parts[3])).toBe(start(both.parts[3]));
  });

  it('keeps recordings together', () => {
    const starts = taken.parts.map(({ passages }) => after.secondsAt(passages[0].startTicks));
    expect(starts[1] - starts[0]).toBeCloseTo(1, 2);
  });
});
