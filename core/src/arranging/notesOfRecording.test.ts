import { describe, expect, it } from 'vitest';
import type { Contour } from '../reading/index.ts';
import {
  applyEdit,
  createTimeMap,
  type LineNote,
  type NotePart,
  type RecordingPart,
  placedNotes,
  placedRecordings,
  type PlacedRecording,
  type Song,
} from '../song/index.ts';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  isTiedToRecording,
  notesOfRecording,
  passageOfRecording,
  passagesOfRecording,
  planFollowing,
} from './index.ts';

// 120 bpm: a second is 1920 ticks.
const time = createTimeMap(songWith());
const passageWith = (notes: LineNote[], more: Partial<PlacedRecording> = {}): PlacedRecording => {
  const passage = { ...placedRecordings(recordingPart(notes))[0], ...more };
  const { offsetSeconds, durationSeconds } = passage;
  return { ...passage, shownSeconds: { from: offsetSeconds, to: offsetSeconds + durationSeconds } };
};
const midiToHz = (midi: number) => 440 * 2 ** ((midi - 69) / 12);
/** A pitch for each hundredth of a second. */
const contourOf = (midiAt: (seconds: number) => number): Contour => ({
  hopSeconds: 0.01,
  f0Hz: Float32Array.from({ length: 400 }, (_, t) => midiToHz(midiAt(t / 100))),
  confidence: new Float32Array(400).fill(1),
});

describe('notes made from a melody', () => {
  it('are whole, in ticks, and where the line says they should be', () => {
    const passage = passageWith(
      [
        lineNote('a', 0.5, 1, 60.3),
        lineNote('b', 1, 1.5, 62, { target: { startSeconds: 1.25, endSeconds: 1.75, midi: 64 } }),
      ],
      { startTicks: 960 },
    );
    expect(notesOfRecording(passage, time)).toEqual([
      { id: 'r-a', startTicks: 960, lengthTicks: 960, midi: 60, velocity: 80 },
      { id: 'r-b', startTicks: 2400, lengthTicks: 960, midi: 64, velocity: 80 },
    ]);
  });

  it('leave out what begins outside the passage, and last at least a tick', () => {
    const notes = [lineNote('a', 0, 0.4, 60), lineNote('b', 1, 1.0001, 60), lineNote('c', 3, 3.5, 60)];
    const passage = passageWith(notes, { offsetSeconds: 0.5, durationSeconds: 2 });
    expect(notesOfRecording(passage, time)).toEqual([
      { id: 'r-b', startTicks: 960, lengthTicks: 1, midi: 60, velocity: 80 },
    ]);
  });

  it('begin with the passage where they were begun just before it', () => {
    const passage = passageWith([lineNote('a', 0.48, 1, 60)], { offsetSeconds: 0.5, durationSeconds: 2 });
    expect(notesOfRecording(passage, time)).toEqual([
      { id: 'r-a', startTicks: 0, lengthTicks: 960, midi: 60, velocity: 80 },
    ]);
  });

  it('bend as the recording does, counted from their start', () => {
    const contour = contourOf((seconds) => (seconds < 1 ? 60 : 60.4));
    const passage = passageWith([lineNote('a', 0.5, 1.5, 60.1), lineNote('b', 2, 2.5, 60.4)]);
    const [a, b] = notesOfRecording(passage, time, { contour });
    expect(a.bends).toEqual([{ afterTicks: 960, semitones: 0.4 }]);
    expect(b.bends).toEqual([{ afterTicks: 0, semitones: 0.4 }]);
    expect(notesOfRecording(passage, time).some((note) => note.bends)).toBe(false);
  });

  it('bend as the correction sounds: a note at 0 cents does not bend 42', () => {
    const contour = contourOf(() => 60.42);
    const tuned = { centre: 1 };
    const passage = passageWith([lineNote('a', 0.5, 1.5, 60.42, { target: tuned })]);
    expect(notesOfRecording(passage, time, { contour })[0].bends).toBeUndefined();
    const half = passageWith([lineNote('a', 0.5, 1.5, 60.42, { target: { centre: 0.5 } })]);
    expect(notesOfRecording(half, time, { contour })[0].bends).toEqual([{ afterTicks: 0, semitones: 0.21 }]);
  });

  it('lose as much vibrato as the recording does, and are stretched with it', () => {
    const contour = contourOf((seconds) => 60 + 0.5 * Math.sin(2 * Math.PI * 5.5 * seconds));
    const widest = (target: LineNote['target']) => {
      const passage = passageWith([lineNote('a', 0.5, 2.5, 60, target && { target })]);
      const [note] = notesOfRecording(passage, time, { contour });
      // Not at the very ends, where half a cycle of vibrato is taken for wander in part.
      const inside = (note.bends ?? []).filter(({ afterTicks }) => afterTicks > 400 && afterTicks < 3400);
      return {
        semitones: Math.max(0, ...inside.map(({ semitones }) => Math.abs(semitones))),
        last: note.bends?.at(-1)?.afterTicks ?? 0,
      };
    };
    expect(widest(undefined).semitones).toBeGreaterThan(0.48);
    expect(widest({ vibratoKept: 0.5 }).semitones).toBeLessThan(0.3);
    expect(widest({ vibratoKept: 0, driftKept: 0 }).semitones).toBeLessThan(0.03);
    const longer = widest({ startSeconds: 0.5, endSeconds: 3.5 }).last;
    expect(longer).toBeGreaterThan(2.9 * 1920);
  });

  it('bend in the octave that their notes were moved to', () => {
    const contour = contourOf((seconds) => (seconds < 1 ? 60 : 60.4));
    for (const octaves of [-1, 1])
      for (const note of [
        lineNote('a', 0.5, 1.5, 60.1 + 12 * octaves),
        // Only its name is another.
        lineNote('a', 0.5, 1.5, 60.1, { namedMidi: 60 + 12 * octaves }),
        // Its sound is an octave away.
        lineNote('a', 0.5, 1.5, 60.1, { target: { midi: 60 + 12 * octaves } }),
      ]) {
        const [{ midi, bends }] = notesOfRecording(passageWith([note]), time, { contour });
        expect(midi).toBe(60 + 12 * octaves);
        expect(bends).toEqual([{ afterTicks: 960, semitones: 0.4 }]);
      }
  });
});

describe('notes made from a chordal recording', () => {
  const onsets = [
    { id: 'x', seconds: 0.5, targetSeconds: 0.56 },
    { id: 'y', seconds: 1, targetSeconds: 0.93 },
    { id: 'z', seconds: 1.5 },
  ];
  const line = {
    readingId: 'r',
    reads: 'notes' as const,
    tuningCents: 0,
    notes: [lineNote('a', 0.5, 1, 60), lineNote('b', 0.51, 1, 64), lineNote('c', 1, 1.5, 65)],
  };

  it.each(['stretch', 'slice'] as const)('begin where its attacks are heard: %s', (how) => {
    const passage = passageWith([], { line, durationSeconds: 4, stretch: { how, semitones: 0, onsets } });
    const starts = notesOfRecording(passage, time).map(({ startTicks }) => startTicks / 1920);
    // The attack keeps its speed, so what lies behind its onset stays as far behind it.
    [0.56, 0.57, 0.93].forEach((seconds, i) => expect(Math.abs(starts[i] - seconds)).toBeLessThan(0.001));
  });

  it('are as they were played where nothing was moved', () => {
    const starts = notesOfRecording(passageWith([], { line }), time).map(({ startTicks }) => startTicks);
    expect(starts).toEqual([960, Math.round(0.51 * 1920), 1920]);
  });
});

describe('following the recording again', () => {
  const source = (notes: LineNote[]): RecordingPart => recordingPart(notes);
  const before = [lineNote('a', 0.5, 1, 60), lineNote('b', 1, 1.5, 62), lineNote('c', 2, 2.5, 64)];
  const made = (only?: ReadonlySet<string>, id = 'flute'): NotePart => ({
    ...notePart([]),
    id,
    madeFromPartId: 'voice',
    passages: [{ id: 'p', ...passageOfRecording(placedRecordings(source(before))[0], time, { only }) }],
  });
  const plan = (song: Song, part: NotePart) => planFollowing(song, part, time, () => undefined);

  it('has nothing to do where nothing changed', () => {
    const part = made();
    expect(isTiedToRecording(part)).toBe(true);
    expect(plan(songWith(source(before), part), part)).toBeUndefined();
  });

  it('moves, adds and removes notes, and leaves what was drawn and shaded by hand', () => {
    const part = made();
    const [notes] = part.passages;
    const byHand = { id: 'mine', startTicks: 6000, lengthTicks: 100, midi: 72, velocity: 50 };
    const edited: NotePart = {
      ...part,
      passages: [
        { ...notes, notes: [{ ...notes.notes[0], velocity: 33 }, notes.notes[1], notes.notes[2], byHand] },
      ],
    };
    const now = [
      { ...before[0], target: { startSeconds: 0.6, endSeconds: 1.1 } },
      before[1],
      lineNote('d', 3, 3.5, 67),
    ];
    const song = songWith(source(now), edited);
    const following = plan(song, edited)!;
    expect(following).toMatchObject({ changed: 1, added: 1, removed: 1 });
    const applied = applyEdit(song, following.edit);
    const after = applied.song.parts[1] as NotePart;
    expect(after.passages[0].notes.map(({ id, startTicks, velocity }) => [id, startTicks, velocity])).toEqual(
      [
        ['r-a', 1152, 33],
        ['r-b', 1920, 80],
        ['r-d', 5760, 80],
        ['mine', 6000, 50],
      ],
    );
    expect(after.passages[0].lengthTicks).toBe(6720);
    expect(plan(applied.song, after)).toBeUndefined();
    expect(applyEdit(applied.song, applied.inverse).song).toEqual(song);
  });

  it('keeps apart what several parts share: a new note goes to the nearest of them', () => {
    const [low, high] = [made(new Set(['a', 'b']), 'low'), made(new Set(['c']), 'high')];
    const song = songWith(source([...before, lineNote('d', 3, 3.5, 66)]), low, high);
    expect(plan(song, low)).toBeUndefined();
    expect(plan(song, high)).toMatchObject({ changed: 0, added: 1, removed: 0 });
  });

  it('puts what is new into the take that is heard, not into one beside it', () => {
    const part = made();
    const spare = { ...part.passages[0], id: 'other', take: 'Take 1', spare: true as const, notes: [] };
    const chosen = { ...part.passages[0], take: 'Take 2' };
    const taken: NotePart = { ...part, passages: [spare, chosen] };
    const song = songWith(source([...before, lineNote('d', 3, 3.5, 67)]), taken);
    const after = applyEdit(song, plan(song, taken)!.edit).song.parts[1] as NotePart;
    expect(after.passages.map(({ notes }) => notes.length)).toEqual([0, 4]);
  });

  it('reaches every passage of both, and puts what is new where the recording plays it', () => {
    const split: RecordingPart = {
      ...source(before),
      passages: [
        {
          type: 'recording',
          id: 'p',
          takeId: 'take',
          startTicks: 0,
          offsetSeconds: 0,
          durationSeconds: 1.75,
        },
        {
          type: 'recording',
          id: 'q',
          takeId: 'take',
          startTicks: 19200,
          offsetSeconds: 1.75,
          durationSeconds: 4,
        },
      ],
    };
    let ids = 0;
    const part: NotePart = {
      ...notePart([]),
      madeFromPartId: 'voice',
      passages: passagesOfRecording(split, time, { hits: false }).map((each) => ({
        id: `k${ids++}`,
        ...each,
      })),
    };
    expect(part.passages.map(({ startTicks, notes }) => [startTicks, notes.map(({ id }) => id)])).toEqual([
      [0, ['r-a', 'r-b']],
      [19200, ['r-c']],
    ]);
    expect(plan(songWith(split, part), part)).toBeUndefined();
    const [take] = split.takes;
    const corrected = {
      ...split,
      takes: [
        {
          ...take,
          line: {
            ...take.line!,
            notes: [before[0], { ...before[2], namedMidi: 65 }, lineNote('d', 3, 3.5, 67)],
          },
        },
      ],
    };
    const followed = plan(songWith(corrected, part), part)!;
    expect(followed).toMatchObject({ changed: 1, added: 1, removed: 1 });
    const after = applyEdit(songWith(corrected, part), followed.edit).song.parts[1] as NotePart;
    expect(placedNotes(after).map(({ id, startTicks, midi }) => [id, startTicks, midi])).toEqual([
      ['r-a', 960, 60],
      ['r-c', 19200 + 480, 65],
      ['r-d', 19200 + 2400, 67],
    ]);
  });
});

describe('a recording part that holds a melody and hits', () => {
  const sung = recordingPart([lineNote('a', 0.5, 1, 60)]);
  const [take] = sung.takes;
  const struck = (notes: LineNote[]) => ({
    ...take,
    id: 'struck',
    line: { ...take.line!, reads: 'hits' as const, notes },
  });
  const both = (hits: LineNote[], line = take.line): RecordingPart => ({
    ...sung,
    takes: [{ ...take, line }, struck(hits)],
    passages: [...sung.passages, { ...sung.passages[0], id: 'q', takeId: 'struck', startTicks: 19_200 }],
  });
  const kick = lineNote('k', 0.5, 0.6, 36);
  const partOf = (hits: boolean, kind: 'notes' | 'drums'): NotePart =>
    ({
      ...notePart([]),
      kind,
      id: 'made',
      madeFromPartId: 'voice',
      passages: passagesOfRecording(both([kick]), time, { hits }).map((each, i) => ({
        id: `p${i}`,
        ...each,
      })),
    }) as NotePart;
  const after = (source: RecordingPart, part: NotePart) => {
    const song = songWith(source, part);
    const plan = planFollowing(song, part, time, () => undefined);
    return plan && placedNotes(applyEdit(song, plan.edit).song.parts[1] as NotePart).map(({ midi }) => midi);
  };

  it('makes a part of one or of the other', () => {
    const midis = (hits: boolean) =>
      passagesOfRecording(both([kick]), time, { hits }).flatMap(({ notes }) => notes.map(({ midi }) => midi));
    expect(midis(false)).toEqual([60]);
    expect(midis(true)).toEqual([36]);
  });

  it('is followed by each in its own: no drum gets into a melody, and no melody into the drums', () => {
    const now = both([kick, lineNote('s', 1, 1.1, 38)], {
      ...take.line!,
      notes: [lineNote('a', 0.5, 1, 60), lineNote('b', 1, 2, 64)],
    });
    expect(after(now, partOf(false, 'notes'))).toEqual([60, 64]);
    expect(after(now, partOf(true, 'drums'))).toEqual([36, 38]);
    // A drum kit that plays the melody goes on doing so.
    expect(after(now, partOf(false, 'drums'))).toEqual([60, 64]);
  });

  it('read anew, all of it, is followed by the drums as far as there are hits', () => {
    expect(after(both([lineNote('new', 1, 1.1, 38)]), partOf(true, 'drums'))).toEqual([38]);
    expect(
      after(both([kick], { ...take.line!, notes: [lineNote('new', 1, 2, 64)] }), partOf(false, 'notes')),
    ).toEqual([64]);
    // Without hits a drum kit plays the melody that it played.
    expect(after(recordingPart([lineNote('new', 1, 2, 64)]), partOf(false, 'drums'))).toEqual([64]);
  });
});
