/** What tests of the notes picture show. */
import { createSong, createTimeMap } from '@plundra/core/song';
import type { View } from '../../canvas/view.ts';
import type { CanvasNote } from './canvasNote.ts';
import type { LineScene } from './lineScene.ts';

export const view: View = { startSeconds: 2, pixelsPerSecond: 100, topMidi: 72, pixelsPerSemitone: 20 };
export const time = createTimeMap(createSong('s', 'Song'));
export const note = (
  id: string,
  startSeconds: number,
  midi: number,
  more: Partial<CanvasNote> = {},
): CanvasNote => ({
  id,
  startSeconds,
  endSeconds: startSeconds + 1,
  midi,
  velocity: 100,
  doubtful: false,
  ...more,
});
export const scene = (notes: CanvasNote[]): LineScene => ({
  view,
  time,
  keys: [{ fromSeconds: -Infinity, toSeconds: Infinity, key: null }],
  gridStepTicks: 240,
  notes,
  selected: new Set(),
  previewed: new Set(),
  previewRemoved: new Set(),
  previewAdded: [],
  recordings: null,
  partColour: '#000000',
  before: false,
  wouldGo: new Map(),
  leader: [],
  unpitched: false,
  backdrop: [],
  drumRows: null,
  chords: [],
  sounding: new Map(),
  strokes: [],
});
