import { describe, expect, it } from 'vitest';
import { keyNamed } from '../theory/index.ts';
import { notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  changeAt,
  chordEntriesOf,
  createTimeMap,
  keyAt,
  keyChangesOf,
  placedNotes,
  planSectionMove,
  songSchema,
  soundingSpans,
  type ChordEntry,
  type NotePart,
  type RecordingPart,
  type Song,
} from './index.ts';

const BAR = 3840;
const ids = () => {
  let next = 0;
  return () => `id${next++}`;
};
const chord = (id: string, startTicks: number, root: string): ChordEntry => ({
  id,
  startTicks,
  chord: { root, degrees: ['1', '3', '5'] },
});
/** One note at the start of each of twelve bars, its pitch saying which; at 120 bpm a bar takes two seconds. */
const notes = Array.from({ length: 12 }, (_, bar) => ({
  id: `n${bar}`,
  startTicks: bar * BAR,
  lengthTicks: 960,
  midi: 60 + bar,
  velocity: 80,
}));
const piano = {
  ...notePart(notes),
  passages: [{ type: 'notes', id: 'p', startTicks: 0, lengthTicks: 12 * BAR, notes }],
} as NotePart;
const verse = { id: 'v', startTicks: 2 * BAR, endTicks: 4 * BAR, name: 'Verse' };
const chorus = { id: 'c', startTicks: 4 * BAR, endTicks: 7 * BAR, name: 'Chorus' };
const song: Song = {
  ...songWith(piano, recordingPart(null)),
  key: keyNamed('G', 'major')!,
  keyChanges: [{ startTicks: 3 * BAR, key: keyNamed('A', 'major')! }],
  changes: [chord('1', BAR, 'G'), chord('2', 3 * BAR, 'D'), chord('3', 5 * BAR, 'C')],
  sections: [verse, chorus],
};
/** The bars of before in the order in which they are now. */
const barsOf = ({ parts }: Song) =>
  placedNotes(parts[0] as NotePart)
    .sort((a, b) => a.startTicks - b.startTicks)
    .map(({ startTicks, midi }) => {
      expect(startTicks % BAR).toBe(0);
      return midi - 60;
    });
const moved = (section: typeof verse, toBar: number, from = song): Song => {
  const { song: after, inverse } = applyEdit(from, planSectionMove(from, section, toBar * BAR, ids())!);
  expect(applyEdit(after, inverse).song).toEqual(from);
  expect(songSchema.safeParse(after).error?.issues).toBeUndefined();
  return after;
};
const spansOf = ({ sections }: Song) =>
  sections!.map(({ name, startTicks, endTicks }) => [name, startTicks / BAR, endTicks! / BAR]);

describe('moving a section', () => {
  it('later lets what it passes close up before it', () => {
    const later = moved(verse, 5);
    expect(barsOf(later)).toEqual([0, 1, 4, 5, 6, 2, 3, 7, 8, 9, 10, 11]);
    expect(spansOf(later)).toEqual([
      ['Chorus', 2, 5],
      ['Verse', 5, 7],
    ]);
  });

  it('earlier does the same the other way round, and back again it is where it was', () => {
    const earlier = moved(chorus, 1);
    expect(barsOf(earlier)).toEqual([0, 4, 5, 6, 1, 2, 3, 7, 8, 9, 10, 11]);
    const again = moved({ ...chorus, startTicks: BAR, endTicks: 4 * BAR }, 4, earlier);
    expect(barsOf(again)).toEqual(barsOf(song));
    expect(spansOf(again)).toEqual(spansOf(song));
  });

  it('takes recordings, chords and keys along', () => {
    const later = moved(verse, 5);
    const time = createTimeMap(later);
    // Which second of the recording sounds at a bar: two seconds for each bar of before.
    const spans = soundingSpans(later.parts[1] as RecordingPart, time);
    const heardAt = (bar: number) => {
      const at = time.secondsAt(bar * BAR) + 0.5;
      const span = spans.find(
        ({ originSeconds, fromSeconds, toSeconds }) =>
          at >= originSeconds + fromSeconds && at < originSeconds + toSeconds,
      )!;
      return (at - span.originSeconds - 0.5) / 2;
    };
    const order = barsOf(later);
    for (let bar = 0; bar < 12; bar++) {
      expect(heardAt(bar)).toBeCloseTo(order[bar], 5);
      const [before, after] = [
        changeAt(chordEntriesOf(song), order[bar] * BAR),
        changeAt(chordEntriesOf(later), bar * BAR),
      ];
      expect(after?.chord?.root).toBe(before?.chord?.root);
      expect(keyAt(later, bar * BAR)).toEqual(keyAt(song, order[bar] * BAR));
    }
    expect(keyChangesOf(later)).toHaveLength(3);
  });

  it('takes along that there is no chord yet', () => {
    const intro = { id: 'i', startTicks: 0, endTicks: BAR, name: 'Intro' };
    const later = moved(intro, 3, { ...song, sections: [intro] });
    expect([0, 1, 2, 3, 4].map((bar) => changeAt(chordEntriesOf(later), bar * BAR)?.chord?.root)).toEqual([
      'G',
      'G',
      'D',
      undefined,
      'D',
    ]);
  });

  it('takes its metre along and leaves the tempo where it is', () => {
    const counted: Song = {
      ...song,
      tempoMap: [
        { startTicks: 0, bpm: 120 },
        { startTicks: 3 * BAR, bpm: 90 },
      ],
      metreMap: [
        { startTicks: 0, beats: 4, unit: 4 },
        { startTicks: 2 * BAR, beats: 2, unit: 4 },
        { startTicks: 4 * BAR, beats: 4, unit: 4 },
      ],
    };
    const later = moved(verse, 5, counted);
    expect(later.tempoMap).toEqual(counted.tempoMap);
    expect(later.metreMap).toEqual([
      { startTicks: 0, beats: 4, unit: 4 },
      { startTicks: 5 * BAR, beats: 2, unit: 4 },
      { startTicks: 7 * BAR, beats: 4, unit: 4 },
    ]);
  });

  it('takes what a part was written over along', () => {
    const follows = { aim: 'chord', way: 'root', bassOnBass: false, writtenOver: song.changes! } as const;
    const following = { ...song, parts: [{ ...piano, follows } as NotePart] };
    const after = moved(verse, 5, following).parts[0] as Extract<NotePart, { kind: 'notes' }>;
    expect(changeAt(after.follows!.writtenOver, 6 * BAR)?.chord?.root).toBe('D');
    expect(changeAt(after.follows!.writtenOver, 3 * BAR)?.chord?.root).toBe('C');
  });

  it('takes along what leads into it, and cuts that where the song begins', () => {
    const voice = recordingPart(null);
    const early = 480;
    // Two phrases of the recording: before the verse, and from an eighth before it on.
    const before = { ...voice.passages[0], durationSeconds: 4 - 0.25 };
    const sung = {
      ...voice.passages[0],
      id: 'sung',
      startTicks: 2 * BAR - early,
      offsetSeconds: 3.75,
      durationSeconds: 4,
    };
    const led: Song = { ...song, parts: [{ ...voice, passages: [before, sung] }] };
    const startsOf = (of: Song) =>
      (of.parts[0] as RecordingPart).passages.map(({ id, startTicks }) => [id, startTicks]);
    expect(startsOf(moved(verse, 5, led))).toEqual([
      ['take', 0],
      ['sung', 5 * BAR - early],
    ]);
    const first = (moved(verse, 0, led).parts[0] as RecordingPart).passages;
    // What was sung on the first beat of the verse is on the first beat of the song.
    const sungNow = first.find(({ startTicks }) => startTicks === 0)!;
    expect(sungNow.offsetSeconds).toBeCloseTo(4, 5);
  });

  it('nowhere else does nothing, and before the song is refused', () => {
    expect(planSectionMove(song, verse, 2 * BAR, ids())).toBeUndefined();
    expect(() => planSectionMove(song, verse, -BAR, ids())).toThrow('before the song');
  });
});
