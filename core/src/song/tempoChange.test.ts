import { describe, expect, it } from 'vitest';
import { parseChord, type Chord } from '../theory/index.ts';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  chordEntriesOf,
  createTimeMap,
  offeredBpm,
  planShift,
  planTempo,
  secondsToBarLine,
  tempoKeepsUnasked,
  tempoQuestion,
  type NotePart,
  type RecordingPart,
  type Song,
} from './index.ts';

const chord = (text: string) => (parseChord(text) as { chord: Chord }).chord;
const copy = notePart(
  [
    {
      id: 'a',
      startTicks: 960,
      lengthTicks: 480,
      midi: 60,
      velocity: 80,
      bends: [{ afterTicks: 240, semitones: 0.5 }],
    },
    { id: 'b', startTicks: 7680, lengthTicks: 960, midi: 62, velocity: 80 },
  ],
  { madeFromPartId: 'voice' },
);
const keys = notePart([{ id: 'k', startTicks: 0, lengthTicks: 960, midi: 48, velocity: 80 }], {
  id: 'keys',
  name: 'Keys',
});
const song: Song = {
  ...songWith(recordingPart([lineNote('n', 0.5, 1, 60)], { startTicks: 3840 }), copy, keys),
  tempoMap: [{ startTicks: 0, bpm: 88 }],
  changes: [
    { id: 'c', startTicks: 0, chord: chord('G') },
    { id: 'd', startTicks: 3840, chord: chord('C') },
  ],
  sections: [{ id: 's', startTicks: 3840, name: 'Verse' }],
};
/** Where everything is heard, in seconds. */
const heard = (each: Song) => {
  const time = createTimeMap(each);
  return {
    parts: each.parts.map((part) =>
      part.passages.flatMap((passage) => [
        time.secondsAt(passage.startTicks),
        ...(passage.type === 'notes'
          ? passage.notes.flatMap(({ startTicks, lengthTicks, bends = [] }) => [
              time.secondsAt(passage.startTicks + startTicks),
              time.secondsAt(passage.startTicks + startTicks + lengthTicks),
              ...bends.map((bend) => time.secondsAt(passage.startTicks + startTicks + bend.afterTicks)),
            ])
          : []),
      ]),
    ),
    chords: chordEntriesOf(each).map(({ startTicks }) => time.secondsAt(startTicks)),
    sections: each.sections!.map(({ startTicks }) => time.secondsAt(startTicks)),
  };
};

describe('another tempo', () => {
  it('is asked about where there are recordings, and says which parts would come apart', () => {
    expect(tempoQuestion(song)).toEqual({
      apart: [{ notes: 'Flute', recording: 'Lead voice' }],
      others: ['Keys'],
    });
    expect(tempoQuestion({ ...song, parts: [keys] })).toBeUndefined();
    expect(tempoQuestion(songWith(recordingPart(null)))).toBeUndefined();
    expect(tempoQuestion(songWith(recordingPart(null)), true)).toEqual({ apart: [], others: [] });
    expect(tempoQuestion(songWith(recordingPart(null, { startTicks: 960 })))).toEqual({
      apart: [],
      others: [],
    });
  });

  it('makes notes alone faster, and keeps the grid under a recording alone', () => {
    const alone = recordingPart(null);
    const following: RecordingPart = {
      ...alone,
      passages: alone.passages.map((passage) => ({ ...passage, clock: { keeps: 'song', bpm: 88 } })),
    };
    expect(tempoKeepsUnasked({ ...song, parts: [keys] })).toBe('bars');
    expect(tempoKeepsUnasked(songWith(following))).toBe('bars');
    expect(tempoKeepsUnasked(songWith(alone))).toBe('sound');
  });

  it('can leave everything where it sounds: the grid moves beneath it', () => {
    const { song: after, inverse } = applyEdit(song, planTempo(song, 100, 'sound'));
    expect(after.tempoMap[0].bpm).toBe(100);
    const [before, now] = [heard(song), heard(after)];
    const flat = (all: ReturnType<typeof heard>) => [...all.parts.flat(), ...all.chords, ...all.sections];
    // A tick at 100 bpm lasts 0.6 ms.
    flat(now).forEach((seconds, i) => expect(Math.abs(seconds - flat(before)[i])).toBeLessThan(0.0011));
    expect((after.parts[1] as NotePart).passages[0].notes[0].startTicks).toBe(Math.round((960 * 100) / 88));
    expect(applyEdit(after, inverse).song).toEqual(song);
  });

  it('can leave everything in its bars', () => {
    const { song: after } = applyEdit(song, planTempo(song, 100, 'bars'));
    expect(after).toEqual({ ...song, tempoMap: [{ startTicks: 0, bpm: 100 }] });
  });

  it('leaves room before a bar line that a place is moved to', () => {
    const time = createTimeMap(songWith());
    // Bars of 2 s: from 4.7 s to 4 s, unless something would begin before the song.
    expect(secondsToBarLine(4.7, 1, time)).toBeCloseTo(-0.7);
    expect(secondsToBarLine(4.7, 0.5, time)).toBeCloseTo(1.3);
    expect(secondsToBarLine(0.3, 0, time)).toBeCloseTo(1.7);
    // A recording that begins with its first bar is not put a bar later for what nobody hears.
    expect(secondsToBarLine(0.012, 0, time)).toBeCloseTo(0);
    expect(secondsToBarLine(4.02, 0.01, time)).toBeCloseTo(-0.01);
  });

  it('that was read is offered as a whole number when that keeps the last bar within 20 ms', () => {
    const beatsAt = (bpm: number, bars: number) => {
      const beats = Array.from({ length: bars * 4 + 1 }, (_, i) => 0.31 + (i * 60) / bpm);
      return { beats, downbeats: beats.filter((_, i) => i % 4 === 0) };
    };
    expect(offeredBpm({ bpm: 91.98, ...beatsAt(92.004, 32) })).toBe(92);
    // 128 beats at 92.1 end 90 ms before where 92 would have them.
    expect(offeredBpm({ bpm: 92.1, ...beatsAt(92.1, 32) })).toBe(92.1);
    expect(offeredBpm({ bpm: 92.1, ...beatsAt(92.1, 4) })).toBe(92);
    expect(offeredBpm({ bpm: 92.4, beats: [], downbeats: [] })).toBe(92.4);
  });
});

describe('a recording moved by seconds', () => {
  it('takes what was made from it along, and never goes before the song', () => {
    const at = (each: Song) => {
      const time = createTimeMap(each);
      return each.parts.map(({ passages }) => time.secondsAt(passages[0].startTicks));
    };
    const before = at(song);
    const later = applyEdit(song, planShift(song, 'voice', 0.25)!).song;
    [0.25, 0.25, 0].forEach((by, i) => expect(at(later)[i] - before[i]).toBeCloseTo(by, 2));
    // The notes begin with the song, so the recording cannot go further to the left either.
    expect(planShift(song, 'voice', -9)).toBeUndefined();
    const alone = songWith(recordingPart(null, { startTicks: 960 }));
    expect(applyEdit(alone, planShift(alone, 'voice', -9)!).song.parts[0].passages[0].startTicks).toBe(0);
  });

  it('lets a recording that follows the tempo follow it from its new place on', () => {
    const recorded = recordingPart(null, { startTicks: 3840 });
    const clock = { keeps: 'song' as const, bpm: 100 };
    const loop = { ...recorded, passages: recorded.passages.map((passage) => ({ ...passage, clock })) };
    const changing = {
      ...songWith(loop, { ...copy, madeFromPartId: loop.id }),
      tempoMap: [120, 90, 70].map((bpm, i) => ({ startTicks: 4800 * i, bpm })),
    };
    // A quarter at 120 bpm, from bar 2 on.
    const { parts } = applyEdit(changing, planShift(changing, loop.id, 0.5)!).song;
    expect(parts[0].passages[0]).toMatchObject({ startTicks: 4800, clock });
    // What was made from it goes along: by as many ticks.
    expect((parts[1] as NotePart).passages[0].startTicks).toBe(copy.passages[0].startTicks + 960);
    expect((parts[1] as NotePart).passages[0].notes).toEqual(copy.passages[0].notes);
  });
});
