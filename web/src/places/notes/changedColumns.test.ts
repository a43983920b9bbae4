import { describe, expect, it } from 'vitest';
import type { LineNote, PlacedRecording } from '@plundra/core/song';
import { wholePixels } from '../../canvas/surface.ts';
import { notesOfLine, type CanvasNote } from './canvasNote.ts';
import { changedColumns } from './changedColumns.ts';
import { reachOf, type LineScene } from './lineScene.ts';
import { sameEnds } from './sameEnds.ts';
import { note as noteAt, scene, time, view } from './testScene.ts';

const WIDTH = 1000;
const base: LineScene = { ...scene([]), view: { ...view, startSeconds: 0 } };
const note = (id: string, startSeconds: number, more: Partial<CanvasNote> = {}): CanvasNote =>
  noteAt(id, startSeconds, 60, { endSeconds: startSeconds + 0.5, ...more });
const notes = [note('a', 1), note('b', 2), note('c', 3), note('far', 60)];
const full = (more: Partial<LineScene>): LineScene => ({ ...base, notes, ...more });

describe('what an edit changes of the picture', () => {
  it('is where a note was and where it is', () => {
    const before = full({});
    const moved = [notes[0], note('b', 2.3), ...notes.slice(2)];
    const columns = changedColumns(before, { ...before, notes: moved }, WIDTH);
    // Note b lay at pixels 200 to 250, and now lies at 230 to 280; its outline reaches over its ends.
    expect(columns).toMatchObject({ left: expect.any(Number), right: expect.any(Number) });
    const { left, right } = columns as { left: number; right: number };
    expect(left).toBeLessThan(200 - 5);
    expect(left).toBeGreaterThan(150);
    expect(right).toBeGreaterThan(280 + 5);
    expect(right).toBeLessThan(300);
  });

  it('holds a removed and an added note, and where a corrected one was played', () => {
    const before = full({});
    const without = changedColumns(before, { ...before, notes: [notes[0], ...notes.slice(2)] }, WIDTH);
    expect(without).toMatchObject({ left: 182, right: 268 });
    const played = { startSeconds: 2.8, endSeconds: 3.5, midi: 60, centsOff: 0 };
    const corrected = [...notes.slice(0, 2), note('c', 3, { played }), notes[3]];
    expect(changedColumns(before, { ...before, notes: corrected }, WIDTH)).toEqual({ left: 262, right: 368 });
  });

  it('is the notes that are selected now and were not, and the other way round', () => {
    const before = full({ selected: new Set(['a']) });
    expect(changedColumns(before, { ...before, selected: new Set(['a', 'c']) }, WIDTH)).toEqual({
      left: 282,
      right: 368,
    });
    expect(changedColumns(before, { ...before, selected: new Set(['b']) }, WIDTH)).toEqual({
      left: 82,
      right: 268,
    });
  });

  it('is nothing when it lies out of sight, and all when anything else changes', () => {
    const before = full({});
    const moved = [...notes.slice(0, 3), note('far', 61)];
    expect(changedColumns(before, { ...before, notes: moved }, WIDTH)).toBeNull();
    expect(changedColumns(before, { ...before, selected: new Set(['far']) }, WIDTH)).toBeNull();
    expect(changedColumns(before, { ...before, before: true }, WIDTH)).toBe('all');
    expect(changedColumns(before, { ...before, view: { ...base.view, startSeconds: 1 } }, WIDTH)).toBe('all');
    expect(changedColumns(before, { ...before, previewed: new Set(['a']) }, WIDTH)).toBe('all');
  });
});

describe('columns of whole pixels', () => {
  it('hold what is asked for and end between pixels of the screen', () => {
    const { left, right } = wholePixels({ left: 101, right: 203 }, 1.25);
    expect(left).toBeLessThanOrEqual(101);
    expect(right).toBeGreaterThanOrEqual(203);
    expect(left * 1.25).toBeCloseTo(126, 9);
    expect(right * 1.25).toBeCloseTo(254, 9);
  });
});

describe('how far a note is drawn from its start', () => {
  it('holds its length and where it was played', () => {
    expect(reachOf(notes)).toBeCloseTo(0.5);
    expect(
      reachOf([
        ...notes,
        note('d', 7, { played: { startSeconds: 5, endSeconds: 5.5, midi: 60, centsOff: 0 } }),
      ]),
    ).toBeCloseTo(2);
    expect(
      reachOf([note('e', 1, { played: { startSeconds: 4, endSeconds: 4.5, midi: 60, centsOff: 0 } })]),
    ).toBeCloseTo(3.5);
  });
});

describe('the ends that two lists share', () => {
  it('do not overlap', () => {
    expect(sameEnds([1, 2, 3, 4], [1, 2, 9, 4])).toEqual({ same: 2, sameAtEnd: 1 });
    expect(sameEnds([1, 1], [1, 1, 1])).toEqual({ same: 2, sameAtEnd: 0 });
    expect(sameEnds([], [1])).toEqual({ same: 0, sameAtEnd: 0 });
    expect(sameEnds([1, 2], [1, 2])).toEqual({ same: 2, sameAtEnd: 0 });
  });
});

describe('notes of a line on the canvas', () => {
  const lineNote = (id: string, startSeconds: number, more: Partial<LineNote> = {}): LineNote => ({
    id,
    startSeconds,
    endSeconds: startSeconds + 0.5,
    midi: 60,
    velocity: 80,
    confidence: 1,
    ...more,
  });
  const passage = (line: LineNote[], startTicks = 0): PlacedRecording => ({
    type: 'recording',
    id: 'take',
    takeId: 'take',
    startTicks,
    recordingHash: 'h',
    offsetSeconds: 0,
    durationSeconds: 20,
    line: { readingId: 'r', tuningCents: 0, notes: line },
    shownSeconds: { from: 0, to: 20 },
  });
  const line = [lineNote('a', 1), lineNote('b', 2), lineNote('c', 3)];

  it('stay the same objects where an edit changed nothing', () => {
    const before = notesOfLine(passage(line), time);
    const after = notesOfLine(passage([line[0], lineNote('b', 2, { velocity: 9 }), line[2]]), time);
    expect(after.map((each, i) => each === before[i])).toEqual([true, false, true]);
    expect(after[1].velocity).toBe(9);
    // Undone: the very note of before is back.
    expect(notesOfLine(passage(line), time)[1]).toEqual(before[1]);
  });

  it('move with their passage', () => {
    notesOfLine(passage(line), time);
    const moved = notesOfLine(passage(line, 960), time);
    expect(moved.map(({ startSeconds }) => startSeconds)).toEqual(
      [1, 2, 3].map((seconds) => seconds + time.secondsAt(960)),
    );
  });

  it('lie in the order in which they should sound', () => {
    const late = lineNote('a', 1, { target: { startSeconds: 2.5, endSeconds: 3 } });
    expect(notesOfLine(passage([late, line[1], line[2]]), time).map(({ id }) => id)).toEqual(['b', 'a', 'c']);
    expect(notesOfLine(passage(line), time).map(({ id }) => id)).toEqual(['a', 'b', 'c']);
  });
});
