/** What lies under the pointer on the notes canvas. Pure geometry. */
import { midiOf, secondsOf, xOf, yOf } from '../../canvas/view.ts';
import type { CanvasNote } from './canvasNote.ts';
import { STEM_PIXELS } from './drawBars.ts';
import { ONSET_HEAD_PIXELS, onsetHeadX } from './drawOnsets.ts';
import { BANDS, noteBand, visibleNotes, type LineScene } from './lineScene.ts';

export type Hit =
  | { zone: 'ruler' }
  | { zone: 'labels'; midi: number }
  | { zone: 'waveform' }
  | { zone: 'empty' }
  | { zone: 'note' | 'start' | 'end' | 'stem' | 'onset'; note: CanvasNote };

const EDGE_PIXELS = 6;
const STEM_REACH_PIXELS = 5;
/** A pixel beside a note counts as much as so many above it: of two that touch, the one under the pointer is meant. */
const BESIDE_WEIGHT = 4;

/** @param withStems whether velocity stems can be taken hold of: not while notes are drawn */
export function hitTest(
  scene: LineScene,
  reachSeconds: number,
  height: number,
  x: number,
  y: number,
  withStems = true,
): Hit {
  const band = noteBand(height, scene.recordings !== null);
  if (x < BANDS.labels) {
    return y >= band.top && y < band.bottom
      ? { zone: 'labels', midi: Math.round(midiOf(scene.view, y - band.top)) }
      : { zone: 'ruler' };
  }
  if (y < band.top) return { zone: 'ruler' };
  const { view } = scene;
  if (y >= band.bottom) return onsetHit(scene, x, y - band.bottom) ?? { zone: 'waveform' };
  if (scene.unpitched) return { zone: 'empty' };
  const seconds = secondsOf(view, x);
  const edgeSeconds = EDGE_PIXELS / view.pixelsPerSecond;
  const [first, last] = visibleNotes(
    scene.notes,
    seconds - edgeSeconds,
    seconds + edgeSeconds,
    reachSeconds + edgeSeconds,
  );
  const half = Math.max(7, view.pixelsPerSemitone * 0.5);
  const localY = y - band.top;
  // What lies nearest to the pointer wins: a note it is in before one it is beside, a note before a stem.
  let best: { hit: Hit; distance: number } | undefined;
  const offer = (hit: Hit, distance: number) => {
    if (!best || distance < best.distance) best = { hit, distance };
  };
  for (let i = last - 1; i >= first; i--) {
    const note = scene.notes[i];
    const x0 = xOf(view, note.startSeconds);
    const x1 = xOf(view, note.endSeconds);
    const noteY = yOf(view, note.midi);
    const contourY = note.played ? yOf(view, note.played.midi) : noteY;
    const above = Math.min(Math.abs(localY - noteY), Math.abs(localY - contourY));
    const edge = Math.min(EDGE_PIXELS, (x1 - x0) / 4 + 2);
    if (above <= half && x >= x0 - edge && x <= x1 + edge) {
      const zone = x < x0 + edge ? 'start' : x > x1 - edge ? 'end' : 'note';
      const beside = Math.max(0, x0 - x, x - x1);
      offer({ zone, note }, above + BESIDE_WEIGHT * beside);
    } else if (
      withStems &&
      !note.played &&
      Math.abs(x - x0) <= STEM_REACH_PIXELS &&
      localY < noteY &&
      localY > noteY - STEM_PIXELS - 8
    )
      offer({ zone: 'stem', note }, half + Math.abs(x - x0));
  }
  return best?.hit ?? { zone: 'empty' };
}

/** The head of an onset tick. */
function onsetHit(scene: LineScene, x: number, y: number): Hit | undefined {
  if (Math.abs(y - ONSET_HEAD_PIXELS) > EDGE_PIXELS) return undefined;
  const note = scene.notes.find(
    (each) => each.played && Math.abs(onsetHeadX(each, scene.view) - x) <= EDGE_PIXELS,
  );
  return note && { zone: 'onset', note };
}

/** Notes whose rails cross a box in canvas pixels. */
export function notesInBox(
  scene: LineScene,
  height: number,
  box: { x0: number; y0: number; x1: number; y1: number },
): string[] {
  const { top } = noteBand(height, scene.recordings !== null);
  const [left, right] = [Math.min(box.x0, box.x1), Math.max(box.x0, box.x1)];
  const [upper, lower] = [Math.min(box.y0, box.y1) - top, Math.max(box.y0, box.y1) - top];
  return scene.notes
    .filter((note) => {
      const y = yOf(scene.view, note.midi);
      if (scene.unpitched) {
        const x = xOf(scene.view, note.startSeconds);
        return x >= left && x <= right;
      }
      return (
        xOf(scene.view, note.endSeconds) >= left &&
        xOf(scene.view, note.startSeconds) <= right &&
        y >= upper - 3 &&
        y <= lower + 3
      );
    })
    .map((note) => note.id);
}
