import { describe, expect, it } from 'vitest';
import { matchLines } from '@plundra/core/retune';
import {
  applyEdit,
  createSong,
  createTimeMap,
  type LineNote,
  type RecordingPart,
  type PlacedRecording,
  type Song,
  placedRecordings,
} from '@plundra/core/song';
import {
  keyOfNotes,
  lockNotes,
  meantIn,
  notesMeant,
  movedCount,
  offCount,
  planPull,
  pullNotes,
  shared,
  tuneNotes,
  unpullNotes,
  untuneNotes,
} from './correcting.ts';
import type { LabelledEdit } from './noteEditing.ts';

const note = (id: string, startSeconds: number, midi: number): LineNote => ({
  id,
  startSeconds,
  endSeconds: startSeconds + 0.4,
  midi,
  velocity: 80,
  confidence: 1,
});
// At 120 bpm; the passage starts at second 2 of the song, so a sixteenth is 0.125 s in both.
const part: RecordingPart = {
  kind: 'recording',
  id: 'p',
  name: 'Voice',
  mark: 'VO',
  colour: 0,
  levelDb: 0,
  pan: 0,
  mute: false,
  solo: false,
  material: 'voice',
  takes: [
    {
      id: 't',
      recordingHash: 'a'.repeat(64),
      line: {
        readingId: 'r',
        tuningCents: 0,
        notes: [note('a', 1.03, 60.3), note('b', 1.5, 61.85), note('c', 2.1, 65.35)],
      },
    },
  ],
  passages: [
    { type: 'recording', id: 't', takeId: 't', startTicks: 3840, offsetSeconds: 0, durationSeconds: 10 },
  ],
};
const song: Song = { ...createSong('s', 'Song'), parts: [part] };
const time = createTimeMap(song);
const passageOf = (from: Song) => placedRecordings(from.parts[0] as RecordingPart)[0];
const passage = passageOf(song);
const { line } = passage;
const after = (change: LabelledEdit | undefined) => passageOf(applyEdit(song, change!.edit).song);
const meantOf = (each: PlacedRecording) => [{ passage: each, notes: each.line!.notes }];
const ALL: ReadonlySet<string> = new Set();

describe('tuning notes', () => {
  it('means the selected notes, or all', () => {
    expect(notesMeant(meantIn([passage], ALL))).toHaveLength(3);
    expect(notesMeant(meantIn([passage], new Set(['b']))).map((each) => each.id)).toEqual(['b']);
  });

  const noKey = () => null;

  it('sets shares and rails, and takes the pitch back without touching time', () => {
    const tuned = after(
      tuneNotes('p', passage, line!.notes, { goal: 'scale', centre: 0.8, vibratoKept: 0.5 }, () => ({
        fifths: 0,
        mode: 'major',
      })),
    );
    expect(tuned.line!.notes.map((each) => each.target)).toEqual([
      { midi: 60, centre: 0.8, vibratoKept: 0.5 },
      { midi: 62, centre: 0.8, vibratoKept: 0.5 },
      { midi: 65, centre: 0.8, vibratoKept: 0.5 },
    ]);
    const [typed] = after(tuneNotes('p', passage, [line!.notes[0]], { goal: { midi: 62.1 } }, noKey)).line!
      .notes;
    expect(typed.target).toEqual({ midi: 62.1 });
    const back = after(untuneNotes('p', tuned, tuned.line!.notes));
    expect(back.line).toEqual(line);
  });

  it('pulls to the scale of the key of each place', () => {
    const keyed = {
      key: { fifths: 0, mode: 'major' as const },
      keyChanges: [{ startTicks: time.ticksAt(3.5), key: { fifths: 1, mode: 'major' as const } }],
    };
    // Both lie between F and F sharp; the second sounds behind the change.
    const sharp = line!.notes.map((each) => ({ ...each, midi: 65.6 }));
    const keyOf = keyOfNotes(keyed, passage, time);
    const tuned = after(tuneNotes('p', passage, sharp.slice(0, 2), { goal: 'scale' }, keyOf));
    expect(tuned.line!.notes.map((each) => each.target?.midi)).toEqual([65, 66, undefined]);
  });

  it('counts what is off the rail, less what the centre takes', () => {
    expect(offCount(line!)).toBe(2);
    expect(offCount(after(tuneNotes('p', passage, line!.notes, { centre: 0.5 }, noKey)).line!)).toBe(0);
    expect(shared(line!.notes, (each) => each.velocity)).toBe(80);
    expect(shared(line!.notes, (each) => each.midi)).toBeUndefined();
  });
});

describe('pulling notes', () => {
  const settings = { grid: '1/16', pull: 1, swing: 0, leaveAloneBeyondSeconds: null } as const;

  it('moves starts to the grid, keeps lengths, and starts from what was played every time', () => {
    const plan = planPull(meantOf(passage), settings, time);
    expect(plan.report).toMatchObject({ moving: 2, total: 3 });
    const pulled = after(pullNotes('p', meantOf(passage), plan, time));
    expect(pulled.line!.notes.map((each) => each.target?.startSeconds)).toEqual([
      expect.closeTo(1),
      undefined,
      expect.closeTo(2.125),
    ]);
    expect(pulled.line!.notes[0].target!.endSeconds).toBeCloseTo(1.4);
    expect(movedCount(pulled.line!)).toBe(2);
    expect(planPull(meantOf(pulled), settings, time).report).toEqual(plan.report);
    expect(after(unpullNotes('p', pulled, pulled.line!.notes)).line).toEqual(line);
  });

  it('never goes before the start of the recording', () => {
    const early = { ...passage, startTicks: 0, line: { ...line!, notes: [note('x', 0.05, 60)] } };
    const plan = planPull(meantOf(early), { ...settings, grid: '1/1' }, time);
    const change = pullNotes('p', meantOf(early), plan, time);
    expect(change!.edit).toMatchObject({ put: [{ target: { startSeconds: 0 } }] });
  });
});

describe('locking notes', () => {
  it('follows the partners in time and pitch, each by its strength', () => {
    const leader = [
      { id: 'l1', startSeconds: 3, endSeconds: 3.4, midi: 60 },
      { id: 'l2', startSeconds: 3.48, endSeconds: 3.9, midi: 62 },
    ];
    const follower = line!.notes.map((each) => ({
      ...each,
      startSeconds: each.startSeconds + 2,
      endSeconds: each.endSeconds + 2,
    }));
    const { pairs, intervalSemitones } = matchLines(follower, leader);
    const locked = after(
      lockNotes('p', passage, pairs, { timing: 0.5, pitch: 1 }, intervalSemitones, 'Synth line'),
    );
    expect(locked.line!.notes[0].target).toMatchObject({ midi: 60, centre: 1 });
    expect(locked.line!.notes[0].target!.startSeconds).toBeCloseTo(1.015);
    expect(locked.line!.notes[1].target!.startSeconds).toBeCloseTo(1.49);
    expect(locked.line!.notes[2]).toEqual(line!.notes[2]);
  });
});
