/** Which part of the notes picture an edit changes: of thousands of notes only a few need to be drawn anew. */
import { xOf } from '../../canvas/view.ts';
import type { CanvasNote } from './canvasNote.ts';
import type { LineScene } from './lineScene.ts';
import { sameEnds } from './sameEnds.ts';

/** Of the contours that are drawn. */
const longestHop = (recordings: LineScene['recordings']) =>
  (recordings ?? []).reduce((most, { contour }) => Math.max(most, contour?.hopSeconds ?? 0), 0);

export interface Columns {
  left: number;
  right: number;
}

/** Outlines, heads of onsets and risk marks reach over the ends of their note, by less than this. */
const REACH_PIXELS = 18;

/**
 * The columns of pixels in which two pictures differ when only notes or the selection are others: null when there are none,
 * 'all' when anything else differs.
 */
export function changedColumns(before: LineScene, after: LineScene, width: number): Columns | null | 'all' {
  for (const name of Object.keys(after) as (keyof LineScene)[])
    if (name !== 'notes' && name !== 'selected' && before[name] !== after[name]) return 'all';
  // Strokes are bound to notes anywhere near.
  if (after.strokes.length > 0) return 'all';
  const { view, recordings } = after;
  const reach = REACH_PIXELS + longestHop(recordings) * view.pixelsPerSecond;
  let [left, right] = [Infinity, -Infinity];
  const add = (note: CanvasNote) => {
    const { startSeconds, endSeconds, played } = note;
    const from = xOf(view, Math.min(startSeconds, played?.startSeconds ?? startSeconds));
    const to = xOf(view, Math.max(endSeconds, played?.endSeconds ?? endSeconds));
    if (to + reach < 0 || from - reach > width) return;
    left = Math.min(left, from);
    right = Math.max(right, to);
  };
  if (before.notes !== after.notes) {
    const [old, made] = [before.notes, after.notes];
    const { same, sameAtEnd } = sameEnds(old, made);
    for (let i = same; i < old.length - sameAtEnd; i++) add(old[i]);
    for (let i = same; i < made.length - sameAtEnd; i++) add(made[i]);
  }
  if (before.selected !== after.selected)
    for (const note of after.notes)
      if (before.selected.has(note.id) !== after.selected.has(note.id)) add(note);
  if (left > right) return null;
  return { left: Math.floor(left - reach), right: Math.ceil(right + reach) };
}
