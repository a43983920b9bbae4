import { describe, expect, it } from 'vitest';
import { keyNamed, type Key } from '../theory/index.ts';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  chordEntriesOf,
  createTimeMap,
  findPassages,
  keyAt,
  keyChangesOf,
  keySpanAt,
  placedNotes,
  planInsertion,
  planKeyAt,
  planModulation,
  planRemoval,
  planSectionCopy,
  planTempo,
  planTranspose,
  planTransposePassages,
  withKeyAt,
  type ChordEntry,
  type Edit,
  type NotePart,
  type RecordingPart,
  type Song,
} from './index.ts';

const BAR = 3840;
const G = keyNamed('G', 'major')!;
const A = keyNamed('A', 'major')!;
const B = keyNamed('B', 'minor')!;
const ids = () => {
  let next = 0;
  return () => `id${next++}`;
};
const note = (id: string, startTicks: number, midi: number) => ({
  id,
  startTicks,
  lengthTicks: 960,
  midi,
  velocity: 80,
});
const chord = (id: string, startTicks: number, root: ChordEntry['chord'] & object): ChordEntry => ({
  id,
  startTicks,
  chord: root,
});
const triad = (root: string) => ({ root, degrees: ['1', '3', '5'] }) as ChordEntry['chord'] & object;
/** Places in bars, names by fifths. */
const placesOf = (song: Song) => [
  [1, song.key?.fifths],
  ...keyChangesOf(song).map(({ startTicks, key }) => [startTicks / BAR + 1, key.fifths]),
];
const keyed = (song: Song): Song => ({
  ...song,
  key: G,
  keyChanges: [
    { startTicks: 4 * BAR, key: A },
    { startTicks: 8 * BAR, key: B },
  ],
});
const applied = (song: Song, edit: Edit | undefined): Song => applyEdit(song, edit!).song;
/** What is done, and that taking it back gives the song of before. */
const both = (song: Song, edit: Edit): Song => {
  const { song: after, inverse } = applyEdit(song, edit);
  expect(applyEdit(after, inverse).song).toEqual(song);
  return after;
};

describe('the key of a place', () => {
  const song = keyed(songWith());

  it('is that of the start until the song goes to another', () => {
    const at = (ticks: number) => keyAt(song, ticks)?.fifths;
    expect([0, 4 * BAR - 1, 4 * BAR, 8 * BAR - 1, 8 * BAR, 99 * BAR].map(at)).toEqual([1, 1, 3, 3, 2, 2]);
    expect(keySpanAt(song, 5 * BAR)).toEqual({ startTicks: 4 * BAR, endTicks: 8 * BAR });
    expect(keySpanAt(song, 0)).toEqual({ startTicks: 0, endTicks: 4 * BAR });
    expect(keySpanAt(song, 8 * BAR).endTicks).toBe(Infinity);
  });

  it('is set and taken away, at the start and later', () => {
    const set = (ticks: number, key: Key | null) => placesOf({ ...song, ...withKeyAt(song, ticks, key) });
    expect(set(2 * BAR, B)).toEqual([
      [1, 1],
      [3, 2],
      [5, 3],
      [9, 2],
    ]);
    expect(set(4 * BAR, B)).toEqual([
      [1, 1],
      [5, 2],
      [9, 2],
    ]);
    expect(set(4 * BAR, null)).toEqual([
      [1, 1],
      [9, 2],
    ]);
    expect(set(0, null)).toEqual([
      [1, undefined],
      [5, 3],
      [9, 2],
    ]);
    expect(planKeyAt(song, 5 * BAR, A)).toBeUndefined();
    expect(() => planKeyAt(song, 5 * BAR, null)).toThrow('does not change here');
    expect(planKeyAt(song, 0, null)).toBeDefined();
  });

  it('moves along with bars that are put in or taken out, and comes back', () => {
    expect(placesOf(both(song, planInsertion(song, 3, 2)!))).toEqual([
      [1, 1],
      [7, 3],
      [11, 2],
    ]);
    expect(placesOf(both(song, planInsertion(song, 5, 1)!))).toEqual([
      [1, 1],
      [6, 3],
      [10, 2],
    ]);
    expect(placesOf(both(song, planRemoval(song, 2, 1, ids())!))).toEqual([
      [1, 1],
      [4, 3],
      [8, 2],
    ]);
    // What is in force behind the gap holds from there on; over the start it becomes the key of the start.
    expect(placesOf(both(song, planRemoval(song, 4, 3, ids())!))).toEqual([
      [1, 1],
      [4, 3],
      [6, 2],
    ]);
    expect(placesOf(both(song, planRemoval(song, 1, 6, ids())!))).toEqual([
      [1, 3],
      [3, 2],
    ]);
  });

  it('stays where it is heard when the tempo changes and everything else does', () => {
    const faster = applied(song, planTempo(song, 240, 'sound'));
    expect(placesOf(faster)).toEqual([
      [1, 1],
      [9, 3],
      [17, 2],
    ]);
    expect(placesOf(applied(song, planTempo(song, 240, 'bars')))).toEqual(placesOf(song));
  });

  it('is copied with a section that it changes in', () => {
    const section = { id: 's', startTicks: 2 * BAR, endTicks: 6 * BAR, name: 'Verse' };
    const copied = both(
      { ...song, sections: [section] },
      planSectionCopy({ ...song, sections: [section] }, section, 6 * BAR, ids()),
    );
    expect(placesOf(copied)).toEqual([
      [1, 1],
      [5, 3],
      [7, 1],
      [9, 3],
      [13, 2],
    ]);
  });

  it('of the whole song moves with it', () => {
    const up = planTranspose(song, keyNamed('A', 'major')!, 2);
    expect(placesOf(both(song, up.edit))).toEqual([
      [1, 3],
      [5, 5],
      [9, 4],
    ]);
  });
});

describe('a modulation', () => {
  const piano = notePart(
    [note('a', 0, 60), note('b', 3 * BAR + 2880, 62), note('c', 4 * BAR, 64), note('d', 9 * BAR, 65)],
    {
      id: 'piano',
      passages: [
        {
          type: 'notes',
          id: 'p',
          startTicks: 0,
          lengthTicks: 12 * BAR,
          notes: [
            note('a', 0, 60),
            note('b', 3 * BAR + 2880, 62),
            note('c', 4 * BAR, 64),
            note('d', 9 * BAR, 65),
          ],
        },
      ],
    },
  );
  const drums = {
    ...notePart([note('x', 4 * BAR, 36)], { id: 'drums', name: 'Hand drum' }),
    kind: 'drums',
  } as NotePart;
  const song: Song = {
    ...songWith(piano, drums, recordingPart(null)),
    key: G,
    keyChanges: [{ startTicks: 8 * BAR, key: B }],
    changes: [
      chord('1', 2 * BAR, triad('G')),
      chord('2', 5 * BAR, triad('D')),
      chord('3', 9 * BAR, triad('G')),
    ],
  };

  it('moves what sounds from there to the next change of key, cut at both', () => {
    const plan = planModulation(song, 4 * BAR, A, 2, ids());
    expect(plan).toMatchObject({ moving: ['Flute', 'Lead voice'], staying: ['Hand drum'] });
    const after = applied(song, plan.edit);
    expect(placesOf(after)).toEqual([
      [1, 1],
      [5, 3],
      [9, 2],
    ]);
    expect(placedNotes(after.parts[0] as NotePart).map(({ midi }) => midi)).toEqual([60, 62, 66, 65]);
    expect(placedNotes(after.parts[1] as NotePart).map(({ midi }) => midi)).toEqual([36]);
    const time = createTimeMap(after);
    const voice = after.parts[2] as RecordingPart;
    const moved = voice.passages.map(({ takeId, startTicks }) => [
      startTicks / BAR,
      voice.takes.find(({ id }) => id === takeId)?.stretch?.semitones ?? 0,
    ]);
    expect(moved.sort((a, b) => a[0] - b[0])).toEqual([
      [0, 0],
      [4, 2],
      [8, 0],
    ]);
    expect(time.barAt(0).bar).toBe(1);
    expect(applyEdit(after, applyEdit(song, plan.edit).inverse).song).toEqual(song);
  });

  it('takes the chords along: one held into it is begun anew, and held out of it comes back', () => {
    const after = applied(song, planModulation(song, 4 * BAR, A, 2, ids()).edit);
    expect(chordEntriesOf(after).map((each) => [each.startTicks / BAR, each.chord?.root])).toEqual([
      [2, 'G'],
      [4, 'A'],
      [5, 'E'],
      [8, 'D'],
      [9, 'G'],
    ]);
  });

  it('moves what a following part was written over', () => {
    const writtenOver = [chord('w', 0, triad('C'))];
    const follows = { aim: 'chord' as const, way: 'root' as const, bassOnBass: false, writtenOver };
    const after = applied(
      { ...song, parts: [{ ...piano, kind: 'notes', program: 0, follows } as NotePart] },
      planModulation({ ...song, parts: [{ ...piano, follows } as NotePart] }, 4 * BAR, A, 2, ids()).edit,
    );
    const part = after.parts[0] as Extract<NotePart, { kind: 'notes' }>;
    expect(part.follows?.writtenOver.map((each) => [each.startTicks / BAR, each.chord?.root])).toEqual([
      [0, 'C'],
      [4, 'D'],
      [8, 'C'],
    ]);
  });

  it('at the start moves everything up to the next change', () => {
    const after = applied(song, planModulation(song, 0, A, 2, ids()).edit);
    expect(placesOf(after)).toEqual([
      [1, 3],
      [9, 2],
    ]);
    expect(placedNotes(after.parts[0] as NotePart).map(({ midi }) => midi)).toEqual([62, 64, 66, 65]);
  });
});

describe('transposing passages', () => {
  const split = (part: RecordingPart): RecordingPart => ({
    ...part,
    passages: [
      { ...part.passages[0], durationSeconds: 10 },
      { ...part.passages[0], id: 'second', startTicks: 10 * BAR, offsetSeconds: 10, durationSeconds: 10 },
    ],
  });
  const second = [{ partId: 'voice', passageId: 'second' }];
  const semitonesOf = ({ passages, takes }: RecordingPart) =>
    passages.map(({ takeId }) => takes.find(({ id }) => id === takeId)?.stretch?.semitones ?? 0);

  it('moves the notes of a line that lie in them, and no others', () => {
    const voice = split(
      recordingPart([
        lineNote('a', 1, 2, 60.1),
        lineNote('b', 11, 12, 62, { target: { midi: 63, centre: 1 } }),
      ]),
    );
    const song = songWith(voice);
    const { edit, places } = planTransposePassages(song, findPassages(song, second), -3, ids())!;
    const after = both(song, edit).parts[0] as RecordingPart;
    expect(after.takes[0].line?.notes.map(({ midi, target }) => [midi, target])).toEqual([
      [60.1, undefined],
      [62, { midi: 60, centre: 1 }],
    ]);
    expect(places).toEqual(second);
  });

  it('without a line gives them a take of their own where others share it', () => {
    const song = songWith(split(recordingPart(null)));
    const one = planTransposePassages(song, findPassages(song, second), 5, ids())!;
    const after = both(song, one.edit);
    expect(semitonesOf(after.parts[0] as RecordingPart)).toEqual([0, 5]);
    // Again: it shares its take with no one now.
    const again = planTransposePassages(after, findPassages(after, one.places), 12, ids())!;
    expect(again.places).toEqual(one.places);
    const higher = both(after, again.edit).parts[0] as RecordingPart;
    expect(semitonesOf(higher)).toEqual([0, 5]);
    expect(higher.takes).toHaveLength(2);
  });

  it('moves a take once when all of its passages are meant', () => {
    const part = split(recordingPart(null));
    part.takes[0].chords = [{ startSeconds: 0, chord: triad('C'), confidence: 1 }];
    const song = songWith(part);
    const all = findPassages(
      song,
      part.passages.map(({ id }) => ({ partId: 'voice', passageId: id })),
    );
    const after = both(song, planTransposePassages(song, all, 2, ids())!.edit).parts[0] as RecordingPart;
    expect(semitonesOf(after)).toEqual([2, 2]);
    expect(after.takes).toHaveLength(1);
    expect(after.takes[0].chords).toMatchObject([{ chord: { root: 'D' } }]);
  });

  it('says that drums have no key', () => {
    const song = songWith({ ...recordingPart(null), material: 'drums' });
    const all = findPassages(song, [{ partId: 'voice', passageId: 'take' }]);
    expect(() => planTransposePassages(song, all, 2, ids())).toThrow('Drums have no key');
  });

  it('of the whole song takes the own chords of recordings along', () => {
    const part = recordingPart(null);
    part.takes[0].chords = [{ startSeconds: 0, chord: triad('C'), confidence: 1 }];
    const after = both(
      { ...songWith(part), key: G },
      planTranspose({ ...songWith(part), key: G }, A, 2).edit,
    );
    expect((after.parts[0] as RecordingPart).takes[0].chords).toMatchObject([{ chord: { root: 'D' } }]);
  });
});
