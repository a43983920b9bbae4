/** Random edits of every type, some of which a song must refuse: for tests of what holds whatever is done. */
import type { Random } from '../signal/index.ts';
import {
  createSong,
  MAX_TICKS,
  type ChordEntry,
  type LineNote,
  type Note,
  type NotePart,
  type Part,
  type RecordingPart,
  type SimpleEdit,
  type Song,
} from '../song/index.ts';

const BAR = 3840;

/** A small song with everything that a song can have. */
export function fullSong(): Song {
  const strip = { mark: 'XX', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
  const recording: RecordingPart = {
    ...strip,
    kind: 'recording',
    id: 'lead',
    name: 'Lead voice',
    material: 'voice',
    passages: [
      {
        type: 'recording',
        id: 'take',
        startTicks: BAR,
        recordingHash: 'a'.repeat(64),
        offsetSeconds: 0,
        durationSeconds: 20,
        line: {
          readingId: 'r',
          tuningCents: -12.5,
          notes: Array.from({ length: 12 }, (_, i) => lineNote(`l${i}`, i, 60 + i / 7)),
        },
      },
    ],
  };
  const keys: NotePart = {
    ...strip,
    kind: 'notes',
    id: 'keys',
    name: 'Electric piano',
    program: 4,
    passages: [
      {
        type: 'notes',
        id: 'k',
        startTicks: 0,
        lengthTicks: 8 * BAR,
        notes: Array.from({ length: 12 }, (_, i) => ({
          ...note(`k${i}`, i * 960, 48 + i),
          ...(i % 3 === 0 && {
            bends: [
              { afterTicks: 10, semitones: 0.3 },
              { afterTicks: 500, semitones: 0 },
            ],
          }),
        })),
      },
    ],
  };
  const drums: NotePart = { ...strip, kind: 'drums', id: 'drums', name: 'Hand drum', passages: [] };
  return {
    ...createSong('song', 'Ferry at Six'),
    parts: [recording, keys, drums],
    changes: [change('c1', 0), change('c2', BAR), change('c3', 3 * BAR)],
    sections: [{ id: 's1', startTicks: 2 * BAR, name: 'Verse' }],
  };
}

const note = (id: string, startTicks: number, midi: number): Note => ({
  id,
  startTicks,
  lengthTicks: 480,
  midi,
  velocity: 80,
});
const lineNote = (id: string, startSeconds: number, midi: number): LineNote => ({
  id,
  startSeconds,
  endSeconds: startSeconds + 0.8,
  midi,
  velocity: 80,
  confidence: 0.7,
});
const change = (id: string, startTicks: number): ChordEntry => ({
  id,
  startTicks,
  chord: { root: 'G', degrees: ['1', '3', '5'] },
});

type Generators = { [Type in SimpleEdit['type']]: (song: Song, random: Random) => unknown };

/** Names differ from run to run of one generator, and are the same for one seed. */
const name = (random: Random) => `x${Math.floor(random() * 1e9).toString(36)}`;
const whole = (random: Random, from: number, to: number) => from + Math.floor(random() * (to - from + 1));
/** Mostly within a few minutes, now and then at the edges of what can be. */
const ticks = (random: Random) =>
  random() < 0.9
    ? whole(random, 0, 40 * BAR)
    : [0, MAX_TICKS - 1, MAX_TICKS, 2e9, -1, 0.5][whole(random, 0, 5)];
const one = <T>(random: Random, list: readonly T[]): T | undefined =>
  list[Math.floor(random() * list.length)];
const some = <T>(random: Random, list: readonly T[]): T[] => list.filter(() => random() < 0.4);

function anyPart(song: Song, random: Random): Part | undefined {
  return one(random, song.parts);
}
function placeIn(song: Song, random: Random, kinds?: Part['kind'][]) {
  const part = one(
    random,
    song.parts.filter(({ kind }) => !kinds || random() < 0.05 || kinds.includes(kind)),
  );
  const passage = part && one(random, part.passages as { id: string }[]);
  return { partId: part?.id ?? 'gone', passageId: passage?.id ?? 'gone', part };
}
const notesAt = (song: Song, at: { partId: string; passageId: string }): (Note | LineNote)[] => {
  const passage = (
    song.parts.find(({ id }) => id === at.partId)?.passages as Part['passages'][number][]
  )?.find(({ id }) => id === at.passageId);
  return passage?.type === 'notes' ? passage.notes : (passage?.line?.notes ?? []);
};
const which = (song: Song, at: { partId: string; passageId: string }, random: Random) =>
  random() < 0.4 ? 'all' : some(random, notesAt(song, at)).map(({ id }) => id);
const clear = ({ partId, passageId }: { partId: string; passageId: string }) => ({ partId, passageId });

const GENERATORS: Generators = {
  'song.set': (_, random) => ({
    type: 'song.set',
    patch: one(random, [
      { title: random() < 0.1 ? '  ' : ` Title ${whole(random, 0, 9)} ` },
      { key: random() < 0.3 ? null : { fifths: -1, mode: 'minor' } },
      {
        tempoMap: [
          { startTicks: random() < 0.95 ? 0 : 5, bpm: 92 },
          { startTicks: whole(random, 0, 9) * BAR, bpm: 80 },
        ],
      },
      { metreMap: [{ startTicks: 0, beats: whole(random, 1, 33), unit: 4 }] },
      { followOff: random() < 0.5 },
      { sections: [{ id: name(random), startTicks: ticks(random), name: 'Chorus' }] },
      { chordKeys: [null, { chord: { root: 'C', degrees: ['1', '5'] }, inversion: 1 }] },
    ]),
  }),
  'part.add': (song, random) => {
    const from = one(random, fullSong().parts)!;
    return {
      type: 'part.add',
      part: { ...from, id: random() < 0.9 ? name(random) : (song.parts[0]?.id ?? 'x') },
      index: whole(random, 0, 600),
    };
  },
  'part.remove': (song, random) => ({
    type: 'part.remove',
    partId: random() < 0.3 ? (anyPart(song, random)?.id ?? 'gone') : 'gone',
  }),
  'part.set': (song, random) => ({
    type: 'part.set',
    partId: anyPart(song, random)?.id ?? 'gone',
    patch: one(random, [
      { name: ' Bass ' },
      { levelDb: 0 - whole(random, 0, 70) },
      { pan: random() * 2 - 1, mute: true },
      { program: whole(random, 0, 128) },
      { material: 'guitar' },
    ]),
  }),
  'part.follow': (song, random) => ({
    type: 'part.follow',
    partId: anyPart(song, random)?.id ?? 'gone',
    follows:
      random() < 0.3
        ? null
        : {
            aim: 'chord',
            way: 'root',
            bassOnBass: false,
            writtenOver: [change(name(random), ticks(random))],
          },
  }),
  'part.move': (song, random) => ({
    type: 'part.move',
    partId: anyPart(song, random)?.id ?? 'gone',
    index: whole(random, 0, 4),
  }),
  'passage.add': (song, random) => {
    const part = anyPart(song, random);
    const from = one(random, fullSong().parts.slice(0, 2))!.passages[0];
    return {
      type: 'passage.add',
      partId: part?.id ?? 'gone',
      passage: { ...from, id: name(random), startTicks: ticks(random) },
    };
  },
  'passage.remove': (song, random) => ({ type: 'passage.remove', ...clear(placeIn(song, random)) }),
  'passage.set': (song, random) => ({
    type: 'passage.set',
    ...clear(placeIn(song, random)),
    patch: one(random, [
      { startTicks: ticks(random) },
      { lengthTicks: ticks(random) },
      { offsetSeconds: random() * 5, durationSeconds: random() < 0.9 ? 3 : -3 },
    ]),
  }),
  'passage.stretch': (song, random) => ({
    type: 'passage.stretch',
    ...clear(placeIn(song, random, ['recording'])),
    stretch: random() < 0.3 ? null : { how: 'slice', semitones: whole(random, -25, 25), onsets: [] },
  }),
  'passage.chords': (song, random) => ({
    type: 'passage.chords',
    ...clear(placeIn(song, random, ['recording'])),
    chords: random() < 0.3 ? null : [{ startSeconds: random(), chord: null, confidence: random() }],
  }),
  'line.set': (song, random) => ({
    type: 'line.set',
    ...clear(placeIn(song, random, ['recording'])),
    line:
      random() < 0.2
        ? null
        : {
            readingId: 'r',
            tuningCents: whole(random, -50, 50),
            notes: [lineNote('b', 2, 60), lineNote('a', 1, 61)],
          },
  }),
  'line.tuning': (song, random) => ({
    type: 'line.tuning',
    ...clear(placeIn(song, random, ['recording'])),
    tuningCents: whole(random, -51, 51),
  }),
  'line.formants': (song, random) => ({
    type: 'line.formants',
    ...clear(placeIn(song, random, ['recording'])),
    semitones: whole(random, -12, 13),
  }),
  'line.notes': (song, random) => {
    const at = placeIn(song, random, ['recording']);
    const there = notesAt(song, at) as LineNote[];
    return {
      type: 'line.notes',
      ...clear(at),
      remove: some(random, there)
        .filter(() => random() < 0.2)
        .map(({ id }) => id),
      put: [
        ...some(random, there).map((each) => ({
          ...each,
          ...(random() < 0.3 && { namedMidi: random() * 130 }),
          target: { midi: random() * 130, startSeconds: random() * 9 },
        })),
        lineNote(name(random), random() * 30, whole(random, 0, 127)),
      ],
    };
  },
  'line.adjust': (song, random) => {
    const at = placeIn(song, random, ['recording']);
    return {
      type: 'line.adjust',
      ...clear(at),
      which: which(song, at, random),
      add: one(random, [
        { railSemitones: whole(random, -12, 12) },
        { railSemitones: random() - 0.5, seconds: random() - 0.4 },
        { velocity: whole(random, -9, 9) },
        {},
      ]),
      set: one(random, [
        { muted: random() < 0.5 },
        { target: { centre: random(), vibratoKept: random() < 0.5 ? null : 0.5 } },
        { confidence: 1, velocity: whole(random, 0, 128) },
        {},
      ]),
    };
  },
  'passage.notes': (song, random) => {
    const at = placeIn(song, random, ['notes', 'drums']);
    const there = notesAt(song, at) as Note[];
    return {
      type: 'passage.notes',
      ...clear(at),
      remove: some(random, there)
        .filter(() => random() < 0.2)
        .map(({ id }) => id),
      put: [
        ...some(random, there).map((each) => ({
          ...each,
          startTicks: ticks(random),
          ...(random() < 0.2 && {
            bends: [{ afterTicks: whole(random, 0, 99), semitones: whole(random, -25, 25) }],
          }),
        })),
        note(name(random), ticks(random), whole(random, 0, 128)),
      ],
    };
  },
  'passage.adjust': (song, random) => {
    const at = placeIn(song, random, ['notes', 'drums']);
    return {
      type: 'passage.adjust',
      ...clear(at),
      which: which(song, at, random),
      add: one(random, [
        { startTicks: whole(random, -2000, 4000) },
        { midi: whole(random, -12, 12) },
        { velocity: whole(random, -60, 60), startTicks: 240 },
        {},
      ]),
      set: one(random, [{ muted: random() < 0.5 }, { midi: whole(random, 0, 127) }, { velocity: 127 }, {}]),
    };
  },
  'changes.put': (song, random) => ({
    type: 'changes.put',
    remove: some(random, song.changes ?? [])
      .filter(() => random() < 0.2)
      .map(({ id }) => id),
    put: [change(random() < 0.3 ? (song.changes?.[0]?.id ?? 'c') : name(random), ticks(random))],
  }),
  'time.insert': (_, random) => ({
    type: 'time.insert',
    atTicks: whole(random, 0, 12) * BAR,
    lengthTicks: random() < 0.9 ? whole(random, 1, 8) * BAR : 9e8,
  }),
  'time.remove': (_, random) => ({
    type: 'time.remove',
    atTicks: whole(random, 0, 12) * BAR,
    lengthTicks: whole(random, 1, 4) * BAR,
    chordId: name(random),
  }),
};

export const EDIT_TYPES = Object.keys(GENERATORS) as SimpleEdit['type'][];

/** An edit of a type for a song; a song may refuse it. */
export function randomEdit(type: SimpleEdit['type'], song: Song, random: Random): SimpleEdit {
  return GENERATORS[type](song, random) as SimpleEdit;
}
