import { describe, expect, it } from 'vitest';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  createTimeMap,
  passagesWithinTicks,
  placedNotes,
  planInsertion,
  planRemoval,
  planSectionCopy,
  planTempo,
  putSection,
  resizedSection,
  sectionEndTicks,
  sectionsOf,
  soundingSpans,
  type NotePart,
  type RecordingPart,
  type Section,
  type Song,
} from './index.ts';

const BAR = 3840;
const ids = () => {
  let next = 0;
  return () => `id${next++}`;
};
const verse: Section = { id: 'v', startTicks: 2 * BAR, endTicks: 4 * BAR, name: 'Verse' };
const chorus: Section = { id: 'c', startTicks: 6 * BAR, name: 'Chorus' };
const both = [verse, chorus];
const spansOf = (sections: readonly Section[] | undefined) =>
  (sections ?? []).map(({ name, startTicks, endTicks }) => [
    name,
    startTicks / BAR,
    endTicks && endTicks / BAR,
  ]);

describe('a section', () => {
  it('ends where it says, with the next, or with the song', () => {
    expect(sectionEndTicks(both, verse, 20 * BAR)).toBe(4 * BAR);
    expect(
      sectionEndTicks([{ ...verse, endTicks: 9 * BAR }, chorus], { ...verse, endTicks: 9 * BAR }, 0),
    ).toBe(6 * BAR);
    expect(sectionEndTicks(both, chorus, 20 * BAR)).toBe(20 * BAR);
  });

  it('keeps its end when it gets another name', () => {
    expect(putSection(both, 2 * BAR, 'Strophe', ids())[0]).toEqual({ ...verse, name: 'Strophe' });
  });

  it('is resized between its neighbours; an end that meets the next goes with it', () => {
    expect(spansOf(resizedSection(both, 'v', 'end', 5 * BAR))[0]).toEqual(['Verse', 2, 5]);
    expect(spansOf(resizedSection(both, 'v', 'end', 8 * BAR))[0]).toEqual(['Verse', 2, undefined]);
    expect(resizedSection(both, 'c', 'start', 0)[1].startTicks).toBe(2 * BAR + 1);
    expect(resizedSection(both, 'v', 'start', 9 * BAR)[0].startTicks).toBe(4 * BAR - 960);
  });

  it('moves with bars that are put in, is longer where they are put into it, and comes back', () => {
    const song: Song = { ...songWith(notePart([])), sections: both };
    for (const [bar, wanted] of [
      [
        1,
        [
          ['Verse', 4, 6],
          ['Chorus', 8, undefined],
        ],
      ],
      [
        4,
        [
          ['Verse', 2, 6],
          ['Chorus', 8, undefined],
        ],
      ],
      [
        5,
        [
          ['Verse', 2, 4],
          ['Chorus', 8, undefined],
        ],
      ],
    ] as const) {
      const { song: after, inverse } = applyEdit(song, planInsertion(song, bar, 2)!);
      expect(spansOf(after.sections)).toEqual(wanted);
      expect(applyEdit(after, inverse).song.sections).toEqual(both);
    }
    const { song: shorter, inverse } = applyEdit(song, planRemoval(song, 3, 1, ids())!);
    expect(spansOf(shorter.sections)).toEqual([
      ['Verse', 2, 3],
      ['Chorus', 5, undefined],
    ]);
    expect(applyEdit(shorter, inverse).song.sections).toEqual(both);
    expect(spansOf(applyEdit(song, planRemoval(song, 3, 2, ids())!).song.sections)).toEqual([
      ['Chorus', 4, undefined],
    ]);
  });

  it('keeps what it sounds over when the tempo changes beneath', () => {
    const song: Song = { ...songWith(recordingPart([])), sections: both };
    const slow = applyEdit(song, planTempo(song, 60, 'sound')).song;
    expect(spansOf(slow.sections)).toEqual([
      ['Verse', 1, 2],
      ['Chorus', 3, undefined],
    ]);
  });
});

describe('a section that is copied', () => {
  const note = (id: string, bar: number) => ({
    id,
    startTicks: bar * BAR,
    lengthTicks: 960,
    midi: 60,
    velocity: 80,
  });
  const voice = recordingPart([lineNote('a', 5, 5.5, 60), lineNote('b', 9, 9.5, 62)]);
  const song: Song = {
    ...songWith(voice, notePart([note('x', 1), note('y', 2), note('z', 5)], { id: 'keys' })),
    sections: both,
    changes: [
      { id: 'g', startTicks: 2 * BAR, chord: { root: 'G', degrees: ['1', '3', '5'] } },
      { id: 'd', startTicks: 4 * BAR, chord: { root: 'D', degrees: ['1', '3', '5'] } },
    ],
  };
  const { song: after, inverse } = applyEdit(song, planSectionCopy(song, verse, 4 * BAR, ids()));

  it('takes its passages, chords and name along, and what follows moves', () => {
    expect(spansOf(sectionsOf(after))).toEqual([
      ['Verse', 2, 4],
      ['Verse', 4, 6],
      ['Chorus', 8, undefined],
    ]);
    const starts = placedNotes(after.parts[1] as NotePart).map(({ startTicks }) => startTicks / BAR);
    expect(starts.sort((a, b) => a - b)).toEqual([1, 2, 4, 7]);
    expect(after.changes!.map(({ startTicks, chord }) => [startTicks / BAR, chord?.root])).toEqual([
      [2, 'G'],
      [4, 'G'],
      [6, 'D'],
    ]);
  });

  it('sounds twice, and all else once', () => {
    // At 120 bpm a bar lasts two seconds.
    const spans = soundingSpans(after.parts[0] as RecordingPart, createTimeMap(after)).map((span) => [
      span.originSeconds + span.fromSeconds,
      span.fromSeconds,
      span.toSeconds,
    ]);
    expect(spans).toEqual([
      [0, 0, 8],
      [8, 4, 8],
      [12, 8, 60],
    ]);
  });

  it('is taken back in one step', () => {
    expect(applyEdit(after, inverse).song).toEqual(song);
  });

  it('is found by where its passages begin', () => {
    expect(passagesWithinTicks(after, 2 * BAR, 4 * BAR)).toHaveLength(2);
  });

  it('takes along what leads into it, and leaves what leads into the next whole', () => {
    const voice = recordingPart(null);
    const piece = (id: string, bar: number, bars: number) => ({
      ...voice.passages[0],
      id,
      startTicks: bar * BAR - 480,
      offsetSeconds: bar * 2 - 0.25,
      durationSeconds: bars * 2,
    });
    // Each phrase begins an eighth before its section.
    const song: Song = {
      ...songWith({ ...voice, passages: [piece('one', 2, 2), piece('two', 4, 3)] }),
      sections: [verse],
    };
    const { song: after, inverse } = applyEdit(song, planSectionCopy(song, verse, 4 * BAR, ids()));
    const { passages } = after.parts[0] as RecordingPart;
    expect(
      passages.map(({ startTicks, offsetSeconds, durationSeconds }) => [
        (startTicks + 480) / BAR,
        offsetSeconds,
        durationSeconds,
      ]),
    ).toEqual([
      [2, 3.75, 4],
      [6, 7.75, 6],
      [4, 3.75, 4],
    ]);
    expect(applyEdit(after, inverse).song).toEqual(song);
    expect(passagesWithinTicks(song, 2 * BAR, 4 * BAR).map(({ passageId }) => passageId)).toEqual(['one']);
  });

  it('does not take along what begins more than a beat before it', () => {
    const voice = recordingPart(null);
    const early = { ...voice.passages[0], startTicks: 2 * BAR - 961, durationSeconds: 4 };
    const song: Song = { ...songWith({ ...voice, passages: [early] }), sections: [verse] };
    expect(passagesWithinTicks(song, 2 * BAR, 4 * BAR)).toEqual([]);
    const inTime = { ...early, startTicks: 2 * BAR - 960 };
    const led: Song = { ...song, parts: [{ ...voice, passages: [inTime] }] };
    expect(passagesWithinTicks(led, 2 * BAR, 4 * BAR)).toHaveLength(1);
  });
});
