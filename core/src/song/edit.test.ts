import { describe, expect, it } from 'vitest';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  createSong,
  EditError,
  editSchema,
  EMPTY_HISTORY,
  HISTORY_LIMIT,
  songSchema,
  applyStep,
  type Edit,
  type Reversible,
  type SimpleEdit,
  type Song,
  type SongState,
  type Step,
} from './index.ts';

const voice = { partId: 'voice', takeId: 'take' };
const song = () =>
  songWith(
    recordingPart([lineNote('a', 1, 2, 60), lineNote('b', 2, 3, 62)]),
    notePart([{ id: 'n', startTicks: 0, lengthTicks: 960, midi: 60, velocity: 90 }]),
  );

const EDITS: Edit[] = [
  { type: 'song.set', patch: { title: 'Another', key: { fifths: -1, mode: 'minor' } } },
  { type: 'song.set', patch: { tempoMap: [{ startTicks: 0, bpm: 92 }] } },
  { type: 'part.add', part: { ...notePart([]), id: 'new' }, index: 1 },
  { type: 'part.remove', partId: 'voice' },
  { type: 'part.set', partId: 'flute', patch: { mute: true, levelDb: -6, program: 4 } },
  { type: 'part.move', partId: 'voice', index: 1 },
  {
    type: 'passage.add',
    partId: 'flute',
    passage: { type: 'notes', id: 'q', startTicks: 9600, lengthTicks: 960, notes: [] },
  },
  { type: 'passage.remove', partId: 'flute', passageId: 'p' },
  {
    type: 'passage.set',
    partId: 'flute',
    passageId: 'p',
    patch: { lengthTicks: 5 },
  },
  {
    type: 'passage.set',
    partId: 'voice',
    passageId: 'take',
    patch: { gainDb: -3, fadeInSeconds: 0.1, muted: true },
  },
  { type: 'passage.set', partId: 'flute', passageId: 'p', patch: { offsetTicks: 480, name: 'Verse' } },
  { type: 'passage.copy', partId: 'voice', passageId: 'take', toId: 'again', startTicks: 9600 },
  { type: 'passage.copy', partId: 'flute', passageId: 'p', toId: 'again', startTicks: 9600 },
  {
    type: 'take.add',
    partId: 'voice',
    take: { id: 'other', recordingHash: 'b'.repeat(64), line: null },
    index: 0,
  },
  { type: 'line.set', ...voice, line: null },
  { type: 'line.tuning', ...voice, tuningCents: -20 },
  { type: 'line.notes', ...voice, remove: ['a'], put: [lineNote('b', 2.5, 3, 64), lineNote('c', 4, 5, 65)] },
  {
    type: 'passage.notes',
    partId: 'flute',
    passageId: 'p',
    remove: ['n'],
    put: [{ id: 'm', startTicks: 5, lengthTicks: 9, midi: 61, velocity: 1 }],
  },
  {
    type: 'batch',
    edits: [
      { type: 'part.remove', partId: 'flute' },
      { type: 'part.set', partId: 'voice', patch: { name: 'Solo' } },
    ],
  },
];

describe('edits', () => {
  it.each(EDITS)('$type: the inverse brings the song back as it was', (edit) => {
    const before = song();
    const { song: after, inverse } = applyEdit(before, editSchema.parse(edit));
    expect(after).not.toEqual(before);
    songSchema.parse(after);
    editSchema.parse(inverse);
    const back = applyEdit(after, inverse).song;
    // A passage that got bends and lost them keeps an empty list; nothing sounds different.
    expect(JSON.parse(JSON.stringify(back).replaceAll(',"bends":[]', ''))).toEqual(before);
  });

  it('leave the song they were given alone', () => {
    const before = song();
    const copy = structuredClone(before);
    EDITS.forEach((edit) => applyEdit(before, edit));
    expect(before).toEqual(copy);
  });

  it('keep notes in order of their start', () => {
    const { song: after } = applyEdit(song(), {
      type: 'line.notes',
      ...voice,
      remove: [],
      put: [lineNote('z', 0.2, 0.5, 70)],
    });
    const part = after.parts[0];
    expect(part.kind === 'recording' && part.takes[0].line?.notes.map((note) => note.id)).toEqual([
      'z',
      'a',
      'b',
    ]);
  });

  it.each<[string, Edit]>([
    ['a part that is gone', { type: 'part.remove', partId: 'gone' }],
    ['a note that is gone', { type: 'line.notes', ...voice, remove: ['gone'], put: [] }],
    ['a part that is there already', { type: 'part.add', part: notePart([]), index: 0 }],
    ['a program for a recording', { type: 'part.set', partId: 'voice', patch: { program: 3 } }],
    [
      'notes for a recording',
      {
        type: 'passage.add',
        partId: 'voice',
        passage: { type: 'notes', id: 'x', startTicks: 0, lengthTicks: 1, notes: [] },
      },
    ],
    ['a take that is used', { type: 'take.remove', ...voice }],
    [
      'a take that is there already',
      { type: 'take.add', partId: 'voice', take: { id: 'take', recordingHash: 'a'.repeat(64), line: null } },
    ],
    [
      'a take for notes',
      { type: 'take.add', partId: 'flute', take: { id: 't', recordingHash: 'a'.repeat(64), line: null } },
    ],
    [
      'a moment of a take that another passage shows',
      {
        type: 'passage.add',
        partId: 'voice',
        passage: {
          type: 'recording',
          id: 'x',
          takeId: 'take',
          startTicks: 0,
          offsetSeconds: 59,
          durationSeconds: 3,
        },
      },
    ],
    [
      'a passage of a take that is gone',
      {
        type: 'passage.add',
        partId: 'voice',
        passage: {
          type: 'recording',
          id: 'x',
          takeId: 'gone',
          startTicks: 0,
          offsetSeconds: 0,
          durationSeconds: 3,
        },
      },
    ],
    [
      'seconds for a passage of notes',
      { type: 'passage.set', partId: 'flute', passageId: 'p', patch: { offsetSeconds: 2 } },
    ],
    [
      'ticks for a passage of a recording',
      { type: 'passage.set', partId: 'voice', passageId: 'take', patch: { lengthTicks: 960 } },
    ],
    [
      'a passage beyond the end of all songs',
      { type: 'passage.set', partId: 'flute', passageId: 'p', patch: { startTicks: 2e9 } },
    ],
    [
      'a note out of range',
      { type: 'passage.adjust', partId: 'flute', passageId: 'p', which: 'all', add: { midi: 68 }, set: {} },
    ],
    [
      'to move a note that is gone',
      { type: 'passage.adjust', partId: 'flute', passageId: 'p', which: ['x'], add: {}, set: {} },
    ],
    [
      'a part in which two passages have one name',
      {
        type: 'part.add',
        index: 0,
        part: {
          ...notePart([]),
          id: 'new',
          passages: [notePart([]).passages[0], notePart([]).passages[0]],
        } as never,
      },
    ],
    ['a line of a note part', { type: 'line.tuning', partId: 'flute', takeId: 'p', tuningCents: 3 }],
  ])('refuse %s with a sentence', (_, edit) => {
    expect(() => applyEdit(song(), edit)).toThrow(EditError);
  });

  it('that adjust notes stop at the edges of what can be, and nothing moves', () => {
    const adjust = (add: object, set: object = {}): Edit => ({
      type: 'passage.adjust',
      partId: 'flute',
      passageId: 'p',
      which: 'all',
      add,
      set,
    });
    for (const add of [
      { startTicks: -1 },
      { startTicks: 1e9 + 1 },
      { midi: 68 },
      { midi: -61 },
      { velocity: 38 },
      { velocity: -90 },
    ])
      expect(() => applyEdit(song(), adjust(add)), JSON.stringify(add)).toThrow(EditError);
    for (const add of [{ startTicks: 1e9 }, { midi: 67 }, { midi: -60 }, { velocity: 37 }, { velocity: -89 }])
      songSchema.parse(applyEdit(song(), adjust(add)).song);
    const line = (add: object): Edit => ({ type: 'line.adjust', ...voice, which: ['a'], add, set: {} });
    expect(() => applyEdit(song(), line({ seconds: -1.01 }))).toThrow(EditError);
    expect(() => applyEdit(song(), line({ railSemitones: 68 }))).toThrow(EditError);
  });

  it('keep the order of notes that begin together, also when one is changed and changed back', () => {
    const together = ['c', 'a', 'b'].map((id) => ({
      id,
      startTicks: 0,
      lengthTicks: 9,
      midi: 60,
      velocity: 90,
    }));
    const sorted = [together[1], together[2], together[0]];
    const before = songWith(notePart(sorted));
    const edit: Edit = {
      type: 'passage.notes',
      partId: 'flute',
      passageId: 'p',
      remove: [],
      put: [{ ...together[1], velocity: 1 }],
    };
    const { song: after, inverse } = applyEdit(before, edit);
    expect(applyEdit(after, inverse).song).toEqual(before);
  });

  it('of many passages are taken in order, and back in the opposite one', () => {
    const before = applyEdit(song(), {
      type: 'batch',
      edits: [
        { type: 'passage.set', partId: 'voice', passageId: 'take', patch: { durationSeconds: 10 } },
        {
          type: 'passage.add',
          partId: 'voice',
          passage: {
            type: 'recording',
            id: 'rest',
            takeId: 'take',
            startTicks: 48_000,
            offsetSeconds: 20,
            durationSeconds: 10,
          },
        },
      ],
    }).song;
    const set = (passageId: string, patch: object, partId = 'voice'): SimpleEdit => ({
      type: 'passage.set',
      partId,
      passageId,
      patch,
    });
    const { song: after, inverse } = applyEdit(before, {
      type: 'batch',
      edits: [
        set('take', { startTicks: 960, name: 'Verse' }),
        set('p', { lengthTicks: 1920 }, 'flute'),
        set('rest', { startTicks: 50_000 }),
        set('take', { startTicks: 1920 }),
      ],
    });
    const [voicePart, flute] = after.parts;
    expect(voicePart.passages.map(({ id, startTicks, name }) => [id, startTicks, name])).toEqual([
      ['take', 1920, 'Verse'],
      ['rest', 50_000, undefined],
    ]);
    expect(flute.passages).toMatchObject([{ lengthTicks: 1920 }]);
    expect(applyEdit(after, inverse).song).toEqual(before);
    // Each is judged by what those before it left: the first gives up what the second takes, not the other way round.
    const shorter = set('take', { durationSeconds: 4 });
    const longer = set('rest', { offsetSeconds: 5 });
    const both = applyEdit(before, { type: 'batch', edits: [shorter, longer] });
    expect(applyEdit(both.song, both.inverse).song).toEqual(before);
    expect(() => applyEdit(before, { type: 'batch', edits: [longer, shorter] })).toThrow(/holds this piece/);
    expect(() => applyEdit(before, { type: 'batch', edits: [shorter, set('gone', {})] })).toThrow(/any more/);
  });

  it('refuse values a song cannot have', () => {
    expect(
      editSchema.safeParse({ type: 'song.set', patch: { tempoMap: [{ startTicks: 10, bpm: 90 }] } }).success,
    ).toBe(false);
    expect(
      editSchema.safeParse({ type: 'song.set', patch: { tempoMap: [{ startTicks: 0, bpm: NaN }] } }).success,
    ).toBe(false);
    expect(editSchema.safeParse({ type: 'part.set', partId: 'voice', patch: { pan: 2 } }).success).toBe(
      false,
    );
  });
});

describe('history', () => {
  const rename = (title: string): Edit => ({ type: 'song.set', patch: { title } });

  /** A song with all that was done to it, as a server keeps it. */
  function walk() {
    const entries = new Map<string, Reversible>();
    let state: SongState = { song: song(), history: EMPTY_HISTORY };
    return {
      get state() {
        return state;
      },
      take(step: Step) {
        const taken = applyStep(state, step, entries.get(step.id));
        entries.set(step.id, taken);
        state = taken.state;
        return taken;
      },
    };
  }

  it('undoes and redoes in order, and says which edit the song went through', () => {
    const walked = walk();
    walked.take({ kind: 'do', id: '1', label: 'one', edit: rename('one') });
    walked.take({ kind: 'do', id: '2', label: 'two', edit: rename('two') });
    expect(walked.take({ kind: 'undo', id: '2' }).applied).toEqual(rename('one'));
    expect(walked.state.song.title).toBe('one');
    walked.take({ kind: 'undo', id: '1' });
    expect(walked.state.song).toEqual(song());
    expect(walked.take({ kind: 'redo', id: '1' }).applied).toEqual(rename('one'));
    expect(walked.state.song.title).toBe('one');
    expect(walked.state.history).toEqual({
      done: [{ id: '1', label: 'one' }],
      undone: [{ id: '2', label: 'two' }],
    });
  });

  it('refuses to undo anything but the newest, and forgets redo after a new edit', () => {
    const walked = walk();
    walked.take({ kind: 'do', id: '1', label: 'one', edit: rename('one') });
    walked.take({ kind: 'do', id: '2', label: 'two', edit: rename('two') });
    expect(() => walked.take({ kind: 'undo', id: '1' })).toThrow(EditError);
    walked.take({ kind: 'undo', id: '2' });
    walked.take({ kind: 'do', id: '3', label: 'three', edit: rename('three') });
    expect(() => walked.take({ kind: 'redo', id: '2' })).toThrow(EditError);
  });

  it('refuses to undo what is not known', () => {
    const { state } = applyStep(
      { song: song(), history: EMPTY_HISTORY },
      { kind: 'do', id: '1', label: 'one', edit: rename('one') },
    );
    expect(() => applyStep(state, { kind: 'undo', id: '1' })).toThrow(EditError);
  });

  it('keeps the newest entries only', () => {
    const walked = walk();
    for (let i = 0; i < HISTORY_LIMIT + 5; i++)
      walked.take({ kind: 'do', id: `${i}`, label: 'x', edit: rename(`${i}`) });
    expect(walked.state.history.done).toHaveLength(HISTORY_LIMIT);
    expect(walked.state.history.done[0].id).toBe('5');
  });
});

describe('a new song', () => {
  it('is valid and plainly has no key yet', () => {
    const made: Song = createSong('id', 'Kettle Waltz');
    expect(songSchema.parse(made)).toEqual(made);
    expect(made.key).toBeNull();
  });
});
