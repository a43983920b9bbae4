import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  createSong,
  createTimeMap,
  wholeRecording,
  type NotePart,
  type RecordingPart,
  type Song,
} from '@plundra/core/song';
import {
  editOfDrag,
  passageAt,
  passagesFrom,
  passagesWithin,
  snapped,
  type DragContext,
  type PassageDrag,
} from './passageTools.ts';

const BAR = 3840;
const look = { mark: 'XX', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
const voice: RecordingPart = {
  ...look,
  kind: 'recording',
  id: 'voice',
  name: 'Lead voice',
  material: 'voice',
  ...wholeRecording({ hash: 'a'.repeat(64), durationSeconds: 8 }, BAR, () => 'v'),
};
const keys: NotePart = {
  ...look,
  kind: 'notes',
  id: 'keys',
  name: 'Electric piano',
  program: 4,
  passages: [{ type: 'notes', id: 'k', startTicks: 0, lengthTicks: 2 * BAR, notes: [] }],
};
const song: Song = { ...createSong('s', 'Song'), parts: [voice, keys] };
// 120 bpm: a bar is two seconds and 200 pixels; the voice lies from 200 to 1000.
const time = createTimeMap(song);
const view = { startSeconds: 0, pixelsPerSecond: 100 };
const VOICE = { partId: 'voice', passageId: 'v' };
const KEYS = { partId: 'keys', passageId: 'k' };
let ids = 0;
const context = (more: Partial<DragContext> = {}): DragContext => ({
  song,
  time,
  view,
  snap: 'bar',
  edges: 'trim',
  recordedSeconds: () => 8,
  createId: () => `new${ids++}`,
  ...more,
});
const drag = (zone: PassageDrag['zone'], fromSeconds: number, places = [VOICE]): PassageDrag => ({
  zone,
  place: places[0],
  places,
  fromSeconds,
});
const after = (edit: ReturnType<typeof editOfDrag>) => applyEdit(song, edit!.edit).song;
const first = (each: Song, part = 0) => each.parts[part].passages[0];

describe('what lies under the pointer', () => {
  it('is a passage, its edges, and the handles of its fades', () => {
    const zone = (x: number, y = 40) => passageAt(voice, view, time, x, y)?.zone;
    expect([100, 203, 500, 997, 1100].map((x) => zone(x))).toEqual([
      undefined,
      'start',
      'body',
      'end',
      undefined,
    ]);
    expect([zone(208, 6), zone(992, 6), zone(500, 6)]).toEqual(['fadeIn', 'fadeOut', 'body']);
    const faded = { ...voice, passages: [{ ...voice.passages[0], fadeInSeconds: 1 }] };
    expect(passageAt(faded, view, time, 307, 6)?.zone).toBe('fadeIn');
    // Notes have no fades, and what is too narrow has no edges.
    expect(passageAt(keys, view, time, 8, 6)?.zone).toBe('body');
    expect(passageAt(keys, { ...view, pixelsPerSecond: 5 }, time, 1, 40)?.zone).toBe('body');
  });

  it('of two that overlap is the one that begins later', () => {
    const over = {
      ...voice,
      passages: [...voice.passages, { ...voice.passages[0], id: 'w', startTicks: 2 * BAR }],
    };
    expect(passageAt(over, view, time, 500, 40)?.passage.id).toBe('w');
  });
});

describe('dragging', () => {
  it('moves all that is selected, by the snapped way of the one that is held', () => {
    const moved = after(editOfDrag(drag('body', 3, [VOICE, KEYS]), 4.8, context()));
    expect([first(moved).startTicks, first(moved, 1).startTicks]).toEqual([2 * BAR, BAR]);
    expect(editOfDrag(drag('body', 3), 3.2, context())).toBeUndefined();
    const free = after(editOfDrag(drag('body', 3), 3.2, context({ snap: 'off' })));
    expect(first(free).startTicks).toBe(BAR + 384);
  });

  it('trims an edge, and brings back no more than there is', () => {
    const shorter = editOfDrag(drag('end', 10), 7.9, context());
    expect(shorter?.label).toBe('Trim passage');
    expect(first(after(shorter))).toMatchObject({ durationSeconds: 6 });
    expect(editOfDrag(drag('end', 10), 14, context())).toBeUndefined();
    const later = first(after(editOfDrag(drag('start', 2), 4.1, context())));
    expect(later).toMatchObject({ startTicks: 2 * BAR, offsetSeconds: 2, durationSeconds: 6 });
  });

  it('repeats where edges repeat', () => {
    const repeated = editOfDrag(drag('end', 10), 14, context({ edges: 'repeat' }));
    expect(repeated?.made).toHaveLength(2);
    expect(after(repeated).parts[0].passages.map(({ startTicks }) => startTicks / BAR)).toEqual([1, 5]);
  });

  it('fades within the passage, and takes a fade away', () => {
    const faded = editOfDrag(drag('fadeIn', 2), 3.5, context());
    expect(first(after(faded))).toMatchObject({ fadeInSeconds: 1.5 });
    expect(first(after(editOfDrag(drag('fadeOut', 10), -9, context())))).toMatchObject({ fadeOutSeconds: 8 });
    expect(editOfDrag(drag('fadeIn', 2), 1, context())).toBeUndefined();
    const gone = editOfDrag(drag('fadeIn', 3.5), 1, context({ song: after(faded) }));
    expect(gone?.edit).toMatchObject({ patch: { fadeInSeconds: null } });
  });

  it('does nothing to what is gone', () => {
    expect(editOfDrag(drag('body', 3), 6, context({ song: { ...song, parts: [] } }))).toBeUndefined();
  });
});

describe('snapping and selecting', () => {
  it('goes to bars, beats, or what can be aimed at', () => {
    expect(snapped('bar', view, time, BAR + 2000)).toBe(2 * BAR);
    expect(snapped('beat', view, time, BAR + 700)).toBe(BAR + 960);
    expect(snapped('off', view, time, BAR + 701)).toBe(BAR + 701);
    // From far away only bars are aimed at, near by finer values.
    expect(snapped('auto', { ...view, pixelsPerSecond: 3 }, time, BAR + 700)).toBe(BAR);
    expect(snapped('auto', { ...view, pixelsPerSecond: 400 }, time, BAR + 130)).toBe(BAR + 120);
  });

  it('takes what a rectangle touches, and what begins from a place on', () => {
    expect(passagesWithin(song.parts, 5, 9, time)).toEqual([VOICE]);
    expect(passagesWithin(song.parts, 9, 1, time)).toEqual([VOICE, KEYS]);
    expect(passagesFrom(song, 1)).toEqual([VOICE]);
    expect(passagesFrom(song, 0)).toEqual([VOICE, KEYS]);
  });
});
