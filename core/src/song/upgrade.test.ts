import { describe, expect, it } from 'vitest';
import { notePart, recordingPart, songWith } from '../test/songs.ts';
import { keyName } from '../theory/index.ts';
import {
  applyEdit,
  channelBendsOf,
  EDIT_VERSION,
  fromOldShape,
  SongFormatError,
  upgradeEdit,
  upgradeKey,
  upgradeSong,
  type Edit,
  type NotePart,
  type Song,
} from './index.ts';

const song = songWith(recordingPart(null), notePart([]));
const messageOf = (work: () => unknown) => {
  try {
    work();
  } catch (error) {
    if (error instanceof SongFormatError) return error.message;
    throw error;
  }
  return undefined;
};

describe('a stored song', () => {
  it('of this release is taken as it is', () => {
    expect(upgradeSong(JSON.parse(JSON.stringify(song)))).toEqual(song);
  });

  it('of a later release says what to do', () => {
    expect(messageOf(() => upgradeSong({ ...song, schemaVersion: 99 }))).toMatch(/newer version of Plundra/);
  });

  it.each<[string, unknown]>([
    ['nothing', null],
    ['a word', 'song'],
    ['a broken part', { ...song, parts: [{}] }],
  ])('that is %s is not taken for one', (_, stored) => {
    expect(messageOf(() => upgradeSong(stored))).toMatch(/not as it should be/);
  });
});

describe('a stored edit', () => {
  const tooMuch: Edit = {
    type: 'passage.set',
    partId: 'flute',
    passageId: 'p',
    patch: { lengthTicks: 960, offsetSeconds: 2 },
  };

  it('of version 1 loses fields that its passage never had', () => {
    const clean = { ...tooMuch, patch: { lengthTicks: 960 } };
    expect(upgradeEdit(tooMuch, 1, song)).toEqual(clean);
    expect(upgradeEdit({ type: 'batch', edits: [tooMuch] }, 1, song)).toEqual({
      type: 'batch',
      edits: [clean],
    });
  });

  it('knows passages that came with the same batch', () => {
    const added = { ...notePart([]), id: 'new' };
    const edits = [
      { type: 'part.add', part: added, index: 0 },
      { ...tooMuch, partId: 'new' },
    ];
    expect(upgradeEdit({ type: 'batch', edits }, 1, song)).toMatchObject({
      edits: [{}, { patch: { lengthTicks: 960 } }],
    });
  });

  it('of this version keeps every field', () => {
    expect(upgradeEdit(tooMuch, EDIT_VERSION, song)).toEqual(tooMuch);
  });

  it('of a later release, or that is none, is refused', () => {
    expect(messageOf(() => upgradeEdit(tooMuch, EDIT_VERSION + 1, song))).toMatch(/newer version/);
    expect(messageOf(() => upgradeEdit({ type: 'dance' }, 1, song))).toMatch(/cannot be read/);
  });
});

describe('what the first release stored', () => {
  const bends = [
    { startTicks: 0, semitones: 0.2 },
    { startTicks: 500, semitones: -0.3 },
    { startTicks: 960, semitones: 0 },
    { startTicks: 2000, semitones: 0.4 },
  ];
  const note = (id: string, startTicks: number) => ({
    id,
    startTicks,
    lengthTicks: 960,
    midi: 60,
    velocity: 80,
  });
  const notes = [note('a', 0), note('b', 960), note('c', 1920)];
  const shapes = [
    [
      { afterTicks: 0, semitones: 0.2 },
      { afterTicks: 500, semitones: -0.3 },
    ],
    undefined,
    [{ afterTicks: 80, semitones: 0.4 }],
  ];
  const passage = { type: 'notes', id: 'p', startTicks: 480, lengthTicks: 3840, notes };
  const stored = (key: unknown, more: object = { bends }) => ({
    ...songWith({ ...notePart([]), passages: [{ ...passage, ...more } as never] }),
    schemaVersion: 1,
    key,
  });
  const shapesOf = (each: Song) => (each.parts[0] as NotePart).passages[0].notes.map((one) => one.bends);

  it.each([
    [{ tonic: 'Db', mode: 'minor' }, 'C♯ minor'],
    [{ tonic: 'F#', mode: 'major' }, 'F♯ major'],
    [{ tonic: 'Ab', mode: 'minor' }, 'G♯ minor'],
    [{ tonic: 'G', mode: 'major' }, 'G major'],
  ])('had keys by a tonic: %o', (key, name) => {
    expect(keyName(upgradeSong(stored(key)).key!)).toBe(name);
    const edit = { type: 'song.set', patch: { key } };
    expect(upgradeEdit({ type: 'batch', edits: [edit] }, 2, song)).toMatchObject({
      edits: [{ patch: { key: upgradeSong(stored(key)).key } }],
    });
    // A browser may have kept an edit of the release before.
    expect(fromOldShape(edit)).toEqual({ type: 'song.set', patch: { key: upgradeKey(key) } });
  });

  it('had bends beside the notes: they go to the notes, and the channel plays the same', () => {
    const upgraded = upgradeSong(stored(null));
    expect(shapesOf(upgraded)).toEqual(shapes);
    // What is no bend is left out.
    const spoiled = [...bends, { startTicks: 'soon', semitones: 1 }, null];
    expect(shapesOf(upgradeSong(stored(null, { bends: spoiled })))).toEqual(shapes);
    const part = upgraded.parts[0] as NotePart;
    expect(channelBendsOf(part)).toEqual([
      { startTicks: 480, semitones: 0.2 },
      { startTicks: 980, semitones: -0.3 },
      { startTicks: 1440, semitones: 0 },
      { startTicks: 2480, semitones: 0.4 },
      { startTicks: 3360, semitones: 0 },
    ]);
  });

  it('had edits that set bends, which reach the notes as the edit leaves them', () => {
    const straight = upgradeSong(stored(null, {}));
    expect(shapesOf(straight)).toEqual([undefined, undefined, undefined]);
    const place = { partId: 'flute', passageId: 'p' };
    const set = { type: 'passage.set', ...place, patch: { bends } };
    const later = bends.map((bend) => ({ ...bend, startTicks: bend.startTicks + 960 }));
    const moved = {
      type: 'batch',
      edits: [
        { ...set, patch: { lengthTicks: 4800, bends: later } },
        {
          type: 'passage.notes',
          ...place,
          remove: [],
          put: notes.map((each) => ({ ...each, startTicks: each.startTicks + 960 })),
        },
      ],
    };
    for (const edit of [set, moved]) {
      const upgraded = upgradeEdit(edit, 2, straight);
      const applied = applyEdit(straight, upgraded);
      expect(shapesOf(applied.song)).toEqual(shapes);
      expect(applyEdit(applied.song, applied.inverse).song).toEqual(straight);
    }
  });

  it('had edits that put notes and said nothing of their bends, which stay', () => {
    const bent = upgradeSong(stored(null));
    const edit = {
      type: 'passage.notes',
      partId: 'flute',
      passageId: 'p',
      remove: [],
      put: [{ ...notes[0], midi: 62 }],
    };
    expect(shapesOf(applyEdit(bent, upgradeEdit(edit, 2, bent)).song)).toEqual(shapes);
    const [first] = (applyEdit(bent, upgradeEdit(edit, 3, bent)).song.parts[0] as NotePart).passages[0].notes;
    expect(first.bends).toBeUndefined();
  });
});

describe('what releases stored that had no takes', () => {
  const line = { readingId: 'r', tuningCents: 3, notes: [] };
  const chords = [{ startSeconds: 1, chord: null, confidence: 0.5 }];
  const stretch = { how: 'slice' as const, semitones: 2, onsets: [] };
  const old = {
    type: 'recording',
    id: 'q',
    startTicks: 960,
    recordingHash: 'a'.repeat(64),
    offsetSeconds: 1,
    durationSeconds: 3,
    line,
    chords,
    stretch,
  };
  const { takes: _, ...voice } = recordingPart(null);
  const part = { ...voice, passages: [old, { ...old, id: 'r', line: null }] };
  const take = { id: 'q', recordingHash: old.recordingHash, line, chords, stretch };
  const passage = {
    type: 'recording',
    id: 'q',
    takeId: 'q',
    startTicks: 960,
    offsetSeconds: 1,
    durationSeconds: 3,
  };

  it('gets a take for each passage, with the same name', () => {
    const upgraded = upgradeSong({ ...song, schemaVersion: 2, parts: [part] });
    expect(upgraded.parts[0]).toMatchObject({
      takes: [take, { ...take, id: 'r', line: null }],
      passages: [passage, { ...passage, id: 'r', takeId: 'r' }],
    });
  });

  const now = upgradeSong({ ...song, schemaVersion: 2, parts: [part, notePart([])] });
  const place = { partId: 'voice', passageId: 'q' };
  const takeOf = { partId: 'voice', takeId: 'q' };

  it.each<[string, object, object]>([
    ['a line', { type: 'line.set', ...place, line: null }, { type: 'line.set', ...takeOf, line: null }],
    [
      'its tuning',
      { type: 'line.tuning', ...place, tuningCents: 1 },
      { type: 'line.tuning', ...takeOf, tuningCents: 1 },
    ],
    ['onsets', { type: 'passage.stretch', ...place, stretch }, { type: 'take.stretch', ...takeOf, stretch }],
    ['own chords', { type: 'passage.chords', ...place, chords }, { type: 'take.chords', ...takeOf, chords }],
    [
      'a place',
      { type: 'passage.set', ...place, patch: { startTicks: 3 } },
      { type: 'passage.set', ...place, patch: { startTicks: 3 } },
    ],
    [
      'a new passage',
      { type: 'passage.add', partId: 'voice', passage: { ...old, id: 'x' }, index: 0 },
      {
        type: 'batch',
        edits: [
          { type: 'take.add', partId: 'voice', take: { ...take, id: 'x' } },
          { type: 'passage.add', partId: 'voice', passage: { ...passage, id: 'x', takeId: 'x' }, index: 0 },
        ],
      },
    ],
    [
      'one that goes',
      { type: 'passage.remove', ...place },
      {
        type: 'batch',
        edits: [
          { type: 'passage.remove', ...place },
          { type: 'take.remove', ...takeOf },
        ],
      },
    ],
    [
      'notes that go',
      { type: 'passage.remove', partId: 'flute', passageId: 'p' },
      { type: 'passage.remove', partId: 'flute', passageId: 'p' },
    ],
  ])('an edit that set %s does the same to its take', (_, stored, wanted) => {
    const upgraded = upgradeEdit(stored, 3, now);
    expect(upgraded).toEqual(wanted);
    const applied = applyEdit(now, upgraded);
    expect(applyEdit(applied.song, applied.inverse).song).toEqual(now);
    // What a browser kept does not know its song; all but a removal can be told.
    if ((stored as { type: string }).type !== 'passage.remove') expect(fromOldShape(stored)).toEqual(wanted);
  });

  it('an edit that inserted bars left recordings whole, and still does', () => {
    const insert = upgradeEdit({ type: 'time.insert', atTicks: 3840, lengthTicks: 960 }, 3, now);
    const [after] = applyEdit(now, insert).song.parts;
    expect(after.passages).toHaveLength(2);
  });

  it('knows parts that came with the same batch', () => {
    const batch = {
      type: 'batch',
      edits: [
        { type: 'part.add', part: { ...part, id: 'new' }, index: 0 },
        { type: 'passage.remove', partId: 'new', passageId: 'r' },
      ],
    };
    const applied = applyEdit(now, upgradeEdit(batch, 3, now));
    expect(applied.song.parts[0]).toMatchObject({ takes: [{ id: 'q' }], passages: [{ id: 'q' }] });
  });
});
