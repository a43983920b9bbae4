import { describe, expect, it } from 'vitest';
import { gridLines } from '../../canvas/timeGrid.ts';
import {
  fitView,
  followPlayhead,
  midiOf,
  pinchView,
  scrollTime,
  secondsOf,
  xOf,
  yOf,
  zoomPitch,
  zoomTime,
} from '../../canvas/view.ts';
import { waveformColumns } from '../../canvas/waveform.ts';
import { dragMove, notesDuring, snapSeconds } from './gesture.ts';
import { ONSET_HEAD_PIXELS, onsetHeadX } from './drawOnsets.ts';
import { hitTest, notesInBox } from './hitTest.ts';
import { BANDS, visibleNotes } from './lineScene.ts';
import { note, scene, time, view } from './testScene.ts';

describe('view', () => {
  it('turns seconds and pitches into places and back', () => {
    expect(xOf(view, 3)).toBe(100);
    expect(secondsOf(view, 100)).toBe(3);
    expect(yOf(view, 70)).toBe(40);
    expect(midiOf(view, 40)).toBe(70);
  });

  it('zooms around a point that keeps its place, within limits', () => {
    const zoomed = zoomTime(view, 2, 300);
    expect(secondsOf(zoomed, 300)).toBeCloseTo(secondsOf(view, 300));
    expect(zoomTime(view, 1e9, 0).pixelsPerSecond).toBe(4000);
    expect(midiOf(zoomPitch(view, 0.5, 100), 100)).toBeCloseTo(midiOf(view, 100));
  });

  it('scrolls no further than the song', () => {
    expect(scrollTime(view, -9999, 60).startSeconds).toBe(0);
    expect(scrollTime(view, 1e9, 60).startSeconds).toBeCloseTo(59.6);
  });

  it('never hides the start of the song under what covers the left', () => {
    expect(xOf(scrollTime(view, -9999, 60, 62), 0)).toBeCloseTo(62);
    expect(xOf(zoomTime({ ...view, startSeconds: 0 }, 4, 0, 62), 0)).toBeGreaterThanOrEqual(0);
    expect(xOf(zoomTime(view, 0.01, 500, 62), 0)).toBeCloseTo(62);
    expect(xOf(followPlayhead({ ...view, startSeconds: 9 }, 0, 800, 62), 0)).toBeCloseTo(62);
  });

  it('turns the page for the playhead', () => {
    expect(followPlayhead(view, 5, 800)).toBe(view);
    expect(xOf(followPlayhead(view, 20, 800), 20)).toBeCloseTo(64);
  });

  it('fits notes with air around, and something sensible without any', () => {
    const fitted = fitView([note('a', 10, 60), note('b', 12, 67)], 800, 400, 20);
    expect(xOf(fitted, 10)).toBeGreaterThan(0);
    expect(xOf(fitted, 13)).toBeLessThan(800);
    expect(yOf(fitted, 67)).toBeGreaterThan(0);
    expect(yOf(fitted, 60)).toBeLessThan(400);
    expect(fitView([], 800, 400, 20).pixelsPerSecond).toBeGreaterThan(0);
  });
});

describe('ruler', () => {
  it('has bars with numbers, beats and steps as the zoom allows', () => {
    const lines = gridLines({ startSeconds: 0, pixelsPerSecond: 100 }, 450, time, 240);
    expect(lines.filter((line) => line.weight === 'bar').map((line) => [line.x, line.label])).toEqual([
      [0, '1'],
      [200, '2'],
      [400, '3'],
    ]);
    expect(lines.filter((line) => line.weight === 'beat' && line.x < 200).map((line) => line.x)).toEqual([
      50, 100, 150,
    ]);
    expect(lines.some((line) => line.weight === 'step')).toBe(true);
    expect(
      gridLines({ startSeconds: 0, pixelsPerSecond: 3 }, 400, time, 240).every(
        (line) => line.weight === 'bar',
      ),
    ).toBe(true);
  });
});

describe('waveform', () => {
  it('takes the extremes under each column, and silence outside', () => {
    const pairs = Int8Array.from([-10, 20, -127, 127, 0, 5, -3, 3]);
    const columns = waveformColumns([{ framesPerPair: 64, pairs }], 6400, {
      fromSeconds: -0.02,
      toSeconds: 0.06,
      columns: 4,
    });
    expect([...columns.subarray(0, 2)]).toEqual([0, 0]);
    expect(columns[2]).toBeCloseTo(-1);
    expect(columns[3]).toBeCloseTo(1);
    expect([...columns.subarray(6)]).toEqual([0, 0]);
  });
});

describe('hits', () => {
  const notes = [
    note('a', 3, 70),
    note('b', 4.5, 65, { played: { startSeconds: 4.5, endSeconds: 5.5, midi: 65.4, centsOff: 0 } }),
  ];
  const top = BANDS.ruler + BANDS.chords;
  const at = (seconds: number, midi: number) =>
    hitTest(scene(notes), 1, 600, xOf(view, seconds), top + yOf(view, midi));

  it('find a note, its edges and its stem', () => {
    expect(at(3.5, 70)).toMatchObject({ zone: 'note', note: { id: 'a' } });
    expect(at(3.01, 70)).toMatchObject({ zone: 'start' });
    expect(at(3.99, 70)).toMatchObject({ zone: 'end' });
    expect(at(3.01, 71.2)).toMatchObject({ zone: 'stem' });
    expect(at(5, 65.6)).toMatchObject({ zone: 'note', note: { id: 'b' } });
  });

  it('take the nearest: of notes that touch the one under the pointer, a note before the stem of another', () => {
    const touching = scene([note('left', 3, 70), note('right', 4, 70)]);
    const touched = (seconds: number, midi = 70, withStems = true) =>
      hitTest(touching, 1, 600, xOf(view, seconds), top + yOf(view, midi), withStems);
    expect(touched(3.98)).toMatchObject({ zone: 'end', note: { id: 'left' } });
    expect(touched(4.02)).toMatchObject({ zone: 'start', note: { id: 'right' } });
    const stacked = scene([note('low', 3, 69), note('high', 3, 70)]);
    const onStack = (midi: number) => hitTest(stacked, 1, 600, xOf(view, 3.01), top + yOf(view, midi));
    expect(onStack(70.2)).toMatchObject({ zone: 'start', note: { id: 'high' } });
    // Drawing takes no notice of stems.
    expect(touched(3.01, 71.2)).toMatchObject({ zone: 'stem' });
    expect(touched(3.01, 71.2, false)).toEqual({ zone: 'empty' });
  });

  it('find the head of an onset over the waveform', () => {
    const x = onsetHeadX(notes[1], view);
    expect(hitTest(scene(notes), 1, 600, x, 600 + ONSET_HEAD_PIXELS)).toMatchObject({
      zone: 'onset',
      note: { id: 'b' },
    });
    expect(hitTest(scene(notes), 1, 600, x, 660).zone).toBe('waveform');
  });

  it('find ruler, labels and nothing', () => {
    expect(at(5, 71).zone).toBe('empty');
    expect(hitTest(scene(notes), 1, 600, 300, 10).zone).toBe('ruler');
    expect(hitTest(scene(notes), 1, 600, 20, top + yOf(view, 70))).toEqual({ zone: 'labels', midi: 70 });
  });

  it('take what a box touches', () => {
    const box = { x0: xOf(view, 5), y0: top + yOf(view, 64), x1: xOf(view, 3.9), y1: top + yOf(view, 71) };
    expect(notesInBox(scene(notes), 600, box)).toEqual(['a', 'b']);
    expect(notesInBox(scene(notes), 600, { ...box, y0: top + yOf(view, 69) })).toEqual(['a']);
  });

  it('look only at notes that can be seen', () => {
    const many = Array.from({ length: 1000 }, (_, i) => note(`${i}`, i, 60));
    expect(visibleNotes(many, 500, 510, 1)).toEqual([499, 510]);
  });
});

describe('gestures', () => {
  const snap = { time, stepTicks: 480 };
  const drag = (seconds: number, semitones: number, free = false, fine = false) =>
    dragMove(note('a', 3.1, 60), { seconds, semitones, pixelsX: seconds * 100 }, { free, fine, snap });

  it('land on the grid, or where they are let go', () => {
    expect(3.1 + drag(0.1, 0).seconds).toBeCloseTo(3.25);
    expect(drag(0.1, 0, true).seconds).toBeCloseTo(0.1);
    expect(drag(-9, 0, true).seconds).toBeCloseTo(-3.1);
  });

  it('move by semitones, by cents where fine, and keep the time of a note that is only lifted', () => {
    expect(drag(0.01, 1.4)).toEqual({ seconds: 0, semitones: 1 });
    expect(drag(0.01, 0.234, false, true)).toEqual({ seconds: 0, semitones: 0.23 });
    expect(snapSeconds(3.1, { time, stepTicks: 0 })).toBe(3.1);
  });

  it('show notes as they will be', () => {
    const notes = [note('a', 3, 60), note('b', 5, 62)];
    const moved = notesDuring(
      {
        kind: 'move',
        note: notes[0],
        ids: new Set(['a']),
        move: { seconds: 3, semitones: 1 },
        moved: true,
        added: false,
        timeOnly: false,
      },
      notes,
    );
    expect(moved.map((each) => [each.id, each.startSeconds, each.endSeconds, each.midi])).toEqual([
      ['b', 5, 6, 62],
      ['a', 6, 7, 61],
    ]);
    const louder = notesDuring({ kind: 'velocity', note: notes[0], ids: new Set(['a', 'b']), by: 50 }, notes);
    expect(louder.map((each) => each.velocity)).toEqual([127, 127]);
    const trimmed = notesDuring(
      { kind: 'trim', note: notes[1], edge: 'end', startSeconds: 5, endSeconds: 5.2 },
      notes,
    );
    expect(trimmed[1].endSeconds).toBe(5.2);
    expect(notesDuring(null, notes)).toBe(notes);
  });
});

describe('a pinch', () => {
  const [left, right] = [
    { x: 100, y: 200 },
    { x: 300, y: 320 },
  ];
  const pinch = (from: { x: number; y: number }, to: { x: number; y: number }, other = left) =>
    pinchView(view, { from, to, other, bandTop: 48 }, 100);

  it('keeps what lies under both fingers under them, in time and in pitch', () => {
    const to = { x: 420, y: 260 };
    const zoomed = pinch(right, to);
    expect(secondsOf(zoomed, to.x)).toBeCloseTo(secondsOf(view, right.x), 9);
    expect(secondsOf(zoomed, left.x)).toBeCloseTo(secondsOf(view, left.x), 9);
    expect(midiOf(zoomed, to.y - 48)).toBeCloseTo(midiOf(view, right.y - 48), 9);
    expect(midiOf(zoomed, left.y - 48)).toBeCloseTo(midiOf(view, left.y - 48), 9);
  });

  it('leaves a direction alone in which the fingers are close together', () => {
    const zoomed = pinch({ x: 300, y: 205 }, { x: 400, y: 205 });
    expect(zoomed.pixelsPerSemitone).toBe(view.pixelsPerSemitone);
    expect(zoomed.pixelsPerSecond).toBeCloseTo(view.pixelsPerSecond * 1.5);
  });

  it('carries the picture along when two fingers move together', () => {
    const [a, b] = [left, { x: 110, y: 400 }];
    const [movedA, movedB] = [
      { x: 60, y: 200 },
      { x: 70, y: 400 },
    ];
    const half = pinch(a, movedA, b);
    const whole = pinchView(half, { from: b, to: movedB, other: movedA, bandTop: 48 }, 100);
    expect(whole.startSeconds).toBeCloseTo(view.startSeconds + 40 / view.pixelsPerSecond, 9);
    expect(whole.pixelsPerSecond).toBe(view.pixelsPerSecond);
  });
});
