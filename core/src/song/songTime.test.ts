import { describe, expect, it } from 'vitest';
import { chordSymbol, parseChord } from '../theory/index.ts';
import {
  applyEdit,
  chordEntriesOf,
  createSong,
  notesWithin,
  planInsertion,
  planRemoval,
  recordingsAcross,
  wholeRecording,
  songSchema,
  type ChordEntry,
  type Edit,
  type NotePart,
  type RecordingPart,
  type Song,
} from './index.ts';

const BAR = 3840;
type Keys = Extract<NotePart, { kind: 'notes' }>;
const look = { mark: 'P', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
const change = (id: string, bar: number, symbol: string): ChordEntry => {
  const parsed = parseChord(symbol);
  if ('error' in parsed) throw new Error(parsed.error);
  return { id, startTicks: bar * BAR, chord: parsed.chord };
};
const changes = [change('a', 0, 'G'), change('b', 1, 'C'), change('c', 2, 'D7'), change('d', 3, 'G')];
/** A note of half a bar, in bars of the song; its passage starts at bar 1. */
const note = (id: string, bar: number) => ({
  id,
  startTicks: (bar - 1) * BAR,
  lengthTicks: BAR / 2,
  midi: 60,
  velocity: 90,
});
const keys: Keys = {
  ...look,
  kind: 'notes',
  id: 'keys',
  name: 'Keys',
  program: 4,
  follows: { aim: 'chord', way: 'nearest', bassOnBass: false, writtenOver: changes },
  passages: [
    {
      type: 'notes',
      id: 'k',
      startTicks: BAR,
      lengthTicks: 3 * BAR,
      notes: [
        note('early', 1.75),
        note('second', 2),
        { ...note('late', 3.5), bends: [{ afterTicks: 100, semitones: 1 }] },
      ],
    },
  ],
};
const recording = (id: string, startTicks: number): RecordingPart => ({
  ...look,
  kind: 'recording',
  id,
  name: id,
  material: 'voice',
  // Three bars at 120 bpm.
  ...wholeRecording({ hash: 'a'.repeat(64), durationSeconds: 6 }, startTicks, () => 'r'),
});
const song: Song = {
  ...createSong('s', 'Song'),
  changes,
  tempoMap: [
    { startTicks: 0, bpm: 120 },
    { startTicks: 2 * BAR, bpm: 90 },
  ],
  sections: [{ id: 'v', startTicks: 2 * BAR, name: 'Verse' }],
  parts: [keys, recording('Lead voice', 0), recording('Second voice', 2 * BAR)],
};

function done(edit: Edit | undefined, before = song): Song {
  const applied = applyEdit(before, edit!);
  expect(songSchema.parse(applied.song)).toEqual(applied.song);
  expect(applyEdit(applied.song, applied.inverse).song).toEqual(before);
  return applied.song;
}
const chordsOf = (each: readonly ChordEntry[]) =>
  each.map(({ startTicks, chord }) => `${startTicks / BAR}:${chordSymbol(chord)}`);
const keysOf = ({ parts }: Song) => parts[0] as Keys;
/** Of the notes of the keys, in bars of the song. */
const notesOf = (each: Song) =>
  keysOf(each).passages.flatMap(({ startTicks, notes }) =>
    notes.map(({ id, startTicks: start }) => [id, (startTicks + start) / BAR]),
  );
const startOf = ({ parts }: Song, id: string) => parts.find((part) => part.id === id)!.passages[0].startTicks;

describe('bars put into a song', () => {
  const after = done(planInsertion(song, 3, 2));

  it('move all that comes after them', () => {
    expect(chordsOf(chordEntriesOf(after))).toEqual(['0:G', '1:C', '4:D7', '5:G']);
    expect(after.sections![0].startTicks).toBe(4 * BAR);
    expect(notesOf(after)).toEqual([
      ['early', 1.75],
      ['second', 4],
      ['late', 5.5],
    ]);
    expect(keysOf(after).passages[0]).toMatchObject({ startTicks: BAR, lengthTicks: 5 * BAR });
    // A bend goes with its note.
    expect(keysOf(after).passages[0].notes[2].bends).toEqual([{ afterTicks: 100, semitones: 1 }]);
    expect(startOf(after, 'Second voice')).toBe(4 * BAR);
  });

  it('take the tempo of the time before them', () => {
    expect(after.tempoMap).toEqual([
      { startTicks: 0, bpm: 120 },
      { startTicks: 4 * BAR, bpm: 90 },
    ]);
    expect(after.metreMap).toEqual(song.metreMap);
  });

  it('cut a recording that sounds across them, and say so; taken back, it is whole again', () => {
    const lead = after.parts.find(({ id }) => id === 'Lead voice') as RecordingPart;
    expect(lead.passages).toEqual([
      { ...song.parts[1].passages[0], durationSeconds: 4 },
      { ...song.parts[1].passages[0], id: 'r~2', startTicks: 4 * BAR, offsetSeconds: 4, durationSeconds: 2 },
    ]);
    expect(recordingsAcross(song, 3)).toEqual(['Lead voice']);
    // It is heard for three bars.
    expect(recordingsAcross(song, 4)).toEqual(['Second voice']);
  });

  it('move what a part was written over with its notes', () => {
    expect(chordsOf(keysOf(after).follows!.writtenOver)).toEqual(chordsOf(chordEntriesOf(after)));
  });

  it('go in front of everything', () => {
    const intro = done(planInsertion(song, 1, 8));
    expect(chordsOf(chordEntriesOf(intro))).toEqual(['8:G', '9:C', '10:D7', '11:G']);
    expect(intro.tempoMap.map(({ startTicks }) => startTicks / BAR)).toEqual([0, 10]);
    expect(startOf(intro, 'Lead voice')).toBe(8 * BAR);
    expect(notesOf(intro).map(([, bar]) => bar)).toEqual([9.75, 10, 11.5]);
    expect(keysOf(intro).passages[0]).toMatchObject({ startTicks: 9 * BAR, lengthTicks: 3 * BAR });
    expect(keysOf(intro).passages[0].notes).toEqual(keys.passages[0].notes);
  });

  it('are as long as the bars before them', () => {
    // Bars of three quarters from bar 3 on.
    const metreMap = [...song.metreMap, { startTicks: 2 * BAR, beats: 3, unit: 4 as const }];
    const metres = { ...song, metreMap };
    expect(done(planInsertion(metres, 3, 1), metres).metreMap[1].startTicks).toBe(3 * BAR);
    const late = done(planInsertion(metres, 4, 1), metres);
    expect(late.metreMap).toEqual(metreMap);
    expect(chordsOf(chordEntriesOf(late))).toEqual(['0:G', '1:C', '2:D7', '3.75:G']);
  });

  it('leave a passage as long as it is that ends where they are put in', () => {
    // The passage of the keys ends with bar 4.
    const longer = { ...song, tempoMap: [...song.tempoMap, { startTicks: 6 * BAR, bpm: 70 }] };
    const after = done(planInsertion(longer, 5, 1), longer);
    expect(after.tempoMap.at(-1)!.startTicks).toBe(7 * BAR);
    expect(keysOf(after).passages[0].lengthTicks).toBe(3 * BAR);
  });

  it('are nothing in a song that has nothing there', () => {
    expect(planInsertion(createSong('s', 'Song'), 1, 1)).toBeUndefined();
  });
});

describe('bars taken out of a song', () => {
  const createId = () => 'new';

  it('take what starts in them along, and the rest moves up', () => {
    const after = done(planRemoval(song, 3, 1, createId));
    expect(notesWithin(song, 3, 1)).toBe(1);
    expect(chordsOf(chordEntriesOf(after))).toEqual(['0:G', '1:C', '2:G']);
    expect(notesOf(after)).toEqual([
      ['early', 1.75],
      ['late', 2.5],
    ]);
    expect(keysOf(after).passages[0].lengthTicks).toBe(2 * BAR);
    // What begins within them begins at their place.
    expect(startOf(after, 'Second voice')).toBe(2 * BAR);
  });

  it('keep tempo, section and bend that hold on behind them', () => {
    const inside = { ...song, tempoMap: [song.tempoMap[0], { startTicks: 1.5 * BAR, bpm: 90 }] };
    const after = done(planRemoval(inside, 2, 1, createId), inside);
    expect(after.tempoMap).toEqual([
      { startTicks: 0, bpm: 120 },
      { startTicks: BAR, bpm: 90 },
    ]);
    expect(after.sections).toEqual([{ id: 'v', startTicks: BAR, name: 'Verse' }]);
    expect(chordsOf(chordEntriesOf(after))).toEqual(['0:G', '1:D7', '2:G']);
    expect(keysOf(after).passages[0]).toMatchObject({ startTicks: BAR, lengthTicks: 2 * BAR });
    expect(notesOf(after)).toEqual([
      ['second', 1],
      ['late', 2.5],
    ]);
  });

  it('may hold a whole passage', () => {
    const after = done(planRemoval(song, 2, 3, createId));
    expect(keysOf(after).passages).toEqual([]);
    expect(chordsOf(chordEntriesOf(after))).toEqual(['0:G', '1:G']);
  });

  it('may be the first', () => {
    const after = done(planRemoval(song, 1, 2, createId));
    expect(after.tempoMap).toEqual([{ startTicks: 0, bpm: 90 }]);
    expect(startOf(after, 'Second voice')).toBe(0);
    expect(startOf(after, 'Lead voice')).toBe(0);
  });
});
