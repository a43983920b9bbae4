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
    takes: [
      {
        id: 'take',
        recordingHash: 'a'.repeat(64),
        line: {
          readingId: 'r',
          tuningCents: -12.5,
          notes: Array.from({ length: 12 }, (_, i) => lineNote(`l${i}`, i, 60 + i / 7)),
        },
      },
      { id: 'spare', recordingHash: 'b'.repeat(64), line: null },
    ],
    passages: [
      {
        type: 'recording',
        id: 'first',
        takeId: 'take',
        startTicks: BAR,
        offsetSeconds: 0,
        durationSeconds: 6,
      },
      {
        type: 'recording',
        id: 'second',
        takeId: 'take',
        startTicks: 8 * BAR,
        offsetSeconds: 6.5,
        durationSeconds: 13.5,
        gainDb: -3,
        fadeOutSeconds: 0.5,
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
        offsetTicks: 0,
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
    key: { fifths: 1, mode: 'major' },
    keyChanges: [{ startTicks: 5 * BAR, key: { fifths: 3, mode: 'major' } }],
    sections: [{ id: 's1', startTicks: 2 * BAR, endTicks: 6 * BAR, name: 'Verse' }],
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
/** How a recording was played; now and then as it cannot have been. */
const playedBy = (random: Random) =>
  [0, 1, 2.5, 4].map((seconds) => ({ seconds, ticks: seconds * 1800 * (random() < 0.9 ? 1 : -1) }));

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
function takeIn(song: Song, random: Random) {
  const part = one(
    random,
    song.parts.filter(({ kind }) => random() < 0.05 || kind === 'recording'),
  );
  const take = part?.kind === 'recording' ? one(random, part.takes) : undefined;
  return { partId: part?.id ?? 'gone', takeId: take?.id ?? 'gone', notes: take?.line?.notes ?? [] };
}
function notesAt(song: Song, at: { partId: string; passageId: string }): Note[] {
  const passage = (
    song.parts.find(({ id }) => id === at.partId)?.passages as Part['passages'][number][]
  )?.find(({ id }) => id === at.passageId);
  return passage?.type === 'notes' ? passage.notes : [];
}
const which = (notes: readonly (Note | LineNote)[], random: Random) =>
  random() < 0.4 ? 'all' : some(random, notes).map(({ id }) => id);
const clear = ({ partId, passageId }: { partId: string; passageId: string }) => ({ partId, passageId });
const clearTake = ({ partId, takeId }: { partId: string; takeId: string }) => ({ partId, takeId });

const GENERATORS: Generators = {
  'song.set': (_, random) => ({
    type: 'song.set',
    patch: one(random, [
      { title: random() < 0.1 ? '  ' : ` Title ${whole(random, 0, 9)} ` },
      { key: random() < 0.3 ? null : { fifths: -1, mode: 'minor' } },
      { keyChanges: [{ startTicks: ticks(random), key: { fifths: whole(random, -8, 7), mode: 'major' } }] },
      {
        tempoMap: [
          { startTicks: random() < 0.95 ? 0 : 5, bpm: 92 },
          { startTicks: whole(random, 0, 9) * BAR, bpm: 80 },
        ],
      },
      { metreMap: [{ startTicks: 0, beats: whole(random, 1, 33), unit: 4 }] },
      { followOff: random() < 0.5 },
      { groups: [{ id: name(random), name: 'Backing', colour: 2, levelDb: -3, mute: false, solo: true }] },
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
      { group: random() < 0.5 ? null : name(random) },
      { seamSeconds: random() < 0.3 ? null : random() },
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
    const { passages } = one(random, fullSong().parts.slice(0, 2))!;
    const take = part?.kind === 'recording' && random() < 0.8 ? one(random, part.takes) : undefined;
    return {
      type: 'passage.add',
      partId: part?.id ?? 'gone',
      passage: {
        ...passages[0],
        id: name(random),
        startTicks: ticks(random),
        ...(take && { takeId: take.id, offsetSeconds: random() * 30, durationSeconds: random() * 3 }),
      },
    };
  },
  'passage.copy': (song, random) => ({
    type: 'passage.copy',
    ...clear(placeIn(song, random)),
    toId: name(random),
    startTicks: ticks(random),
  }),
  'take.add': (song, random) => ({
    type: 'take.add',
    partId: takeIn(song, random).partId,
    take: { id: random() < 0.9 ? name(random) : 'take', recordingHash: 'c'.repeat(64), line: null },
  }),
  'take.remove': (song, random) => ({
    type: 'take.remove',
    partId: 'lead',
    takeId: random() < 0.7 ? 'spare' : takeIn(song, random).takeId,
  }),
  'passage.remove': (song, random) => ({ type: 'passage.remove', ...clear(placeIn(song, random)) }),
  'passage.set': (song, random) => ({
    type: 'passage.set',
    ...clear(placeIn(song, random)),
    patch: one(random, [
      { startTicks: ticks(random) },
      { lengthTicks: ticks(random) },
      { offsetSeconds: random() * 5, durationSeconds: random() < 0.9 ? 3 : -3 },
      { gainDb: random() < 0.5 ? null : -6, fadeInSeconds: random() < 0.5 ? null : random() },
      {
        clock:
          random() < 0.3
            ? null
            : random() < 0.5
              ? { keeps: 'own', speed: 0.5 + random() }
              : {
                  keeps: 'song',
                  bpm: 60 + 100 * random(),
                  ...(random() < 0.5 && { played: playedBy(random) }),
                },
      },
      { colour: random() < 0.3 ? null : Math.floor(random() * 10) },
      { key: random() < 0.3 ? null : { fifths: Math.floor(random() * 15) - 7, mode: 'minor' as const } },
      { spare: random() < 0.5 ? null : true },
      { take: random() < 0.5 ? null : `Take ${whole(random, 1, 3)}`, spare: random() < 0.5 ? null : true },
      { muted: random() < 0.5 ? null : true, name: random() < 0.5 ? null : 'Verse' },
      { offsetTicks: random() < 0.5 ? null : ticks(random) },
    ]),
  }),
  'take.name': (song, random) => ({
    type: 'take.name',
    ...clearTake(takeIn(song, random)),
    name: random() < 0.3 ? null : random() < 0.1 ? ' ' : `Take ${whole(random, 1, 9)}`,
  }),
  'take.stretch': (song, random) => ({
    type: 'take.stretch',
    ...clearTake(takeIn(song, random)),
    stretch: random() < 0.3 ? null : { how: 'slice', semitones: whole(random, -25, 25), onsets: [] },
  }),
  'take.chords': (song, random) => ({
    type: 'take.chords',
    ...clearTake(takeIn(song, random)),
    chords: random() < 0.3 ? null : [{ startSeconds: random(), chord: null, confidence: random() }],
  }),
  'line.set': (song, random) => ({
    type: 'line.set',
    ...clearTake(takeIn(song, random)),
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
    ...clearTake(takeIn(song, random)),
    tuningCents: whole(random, -51, 51),
  }),
  'line.formants': (song, random) => ({
    type: 'line.formants',
    ...clearTake(takeIn(song, random)),
    semitones: whole(random, -12, 13),
  }),
  'line.notes': (song, random) => {
    const at = takeIn(song, random);
    const there = at.notes;
    return {
      type: 'line.notes',
      ...clearTake(at),
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
    const at = takeIn(song, random);
    return {
      type: 'line.adjust',
      ...clearTake(at),
      which: which(at.notes, random),
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
    const there = notesAt(song, at);
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
      which: which(notesAt(song, at), random),
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
    ...(random() < 0.7 && { cuts: true }),
  }),
  'time.remove': (_, random) => ({
    type: 'time.remove',
    atTicks: whole(random, 0, 12) * BAR,
    lengthTicks: whole(random, 1, 4) * BAR,
    chordId: name(random),
    ...(random() < 0.7 && { cuts: true }),
  }),
};

export const EDIT_TYPES = Object.keys(GENERATORS) as SimpleEdit['type'][];

/** An edit of a type for a song; a song may refuse it. */
export function randomEdit(type: SimpleEdit['type'], song: Song, random: Random): SimpleEdit {
  return GENERATORS[type](song, random) as SimpleEdit;
}
