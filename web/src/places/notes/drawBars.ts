/** Bars of notes without a contour, their velocity stems, and the strokes that bind them. */
import { xOf, yOf } from '../../canvas/view.ts';
import { colours, fontFamily } from '../../theme/tokens.ts';
import type { CanvasNote } from './canvasNote.ts';
import type { LineScene } from './lineScene.ts';

/** How strongly notes show that an open proposal would remove. */
export const REMOVED_ALPHA = 0.35;
/** Highest velocity stem in pixels. */
export const STEM_PIXELS = 34;

export function drawBar(context: CanvasRenderingContext2D, note: CanvasNote, scene: LineScene): void {
  const { view } = scene;
  const x = xOf(view, note.startSeconds);
  const w = Math.max(2, xOf(view, note.endSeconds) - x - 1);
  const h = Math.max(3, Math.min(14, view.pixelsPerSemitone * 0.62));
  const y = yOf(view, note.midi);
  context.globalAlpha = scene.previewRemoved.has(note.id) ? REMOVED_ALPHA : 1;
  context.fillStyle = scene.partColour;
  if (note.muted) {
    // Only its outline: it does not sound.
    context.strokeStyle = scene.partColour;
    context.setLineDash([3, 2]);
    context.strokeRect(x + 0.5, y - h / 2 + 0.5, w - 1, h - 1);
    context.setLineDash([]);
    context.globalAlpha = 1;
    return;
  }
  context.fillRect(x, y - h / 2, w, h);
  context.globalAlpha = 1;
  drawBends(context, note, scene);
  if (note.doubtful) {
    const hatching = new Path2D();
    addHatching(hatching, x, y - h / 2 - 2, w, h + 4);
    context.strokeStyle = colours.paper;
    context.lineWidth = 2;
    context.stroke(hatching);
    context.lineWidth = 1;
    context.strokeStyle = colours.doubt;
    context.stroke(hatching);
  }
  drawStem(context, note, scene, h / 2);
  if (note.lyric) drawLyric(context, note.lyric, x, y + h / 2);
}

const LYRIC_FONT = `12px ${fontFamily}`;

/** What is sung on a note, below its start. */
function drawLyric(context: CanvasRenderingContext2D, lyric: string, x: number, bottom: number): void {
  context.font = LYRIC_FONT;
  context.textAlign = 'left';
  context.textBaseline = 'top';
  context.strokeStyle = colours.paper;
  context.lineWidth = 3;
  context.strokeText(lyric, x, bottom + 2);
  context.lineWidth = 1;
  context.fillStyle = colours.ink;
  context.fillText(lyric, x, bottom + 2);
}

/** The pitch of a note that bends, as a fine line over its bar. */
function drawBends(context: CanvasRenderingContext2D, note: CanvasNote, { view }: LineScene): void {
  if (!note.bends) return;
  const right = xOf(view, note.endSeconds) - 1;
  context.strokeStyle = colours.ink;
  context.lineWidth = 1.25;
  context.beginPath();
  let y = yOf(view, note.midi);
  context.moveTo(xOf(view, note.startSeconds), y);
  for (const { seconds, semitones } of note.bends) {
    const x = Math.min(right, xOf(view, seconds));
    context.lineTo(x, y);
    y = yOf(view, note.midi + semitones);
    context.lineTo(x, y);
  }
  context.lineTo(right, y);
  context.stroke();
  context.lineWidth = 1;
}

/** Upright at the start of a note; its height is the velocity. */
function drawStem(
  context: CanvasRenderingContext2D,
  note: CanvasNote,
  scene: LineScene,
  above: number,
): void {
  const { x, top, bottom } = stemOf(note, scene, above);
  context.strokeStyle = colours.ink;
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(x, bottom);
  context.lineTo(x, top);
  context.stroke();
  context.lineWidth = 1;
  context.fillStyle = colours.ink;
  context.fillRect(x - 2.5, top - 1.5, 5, 3);
}

/** Place of a note's velocity stem, relative to the top of the note band. */
function stemOf(note: CanvasNote, scene: Pick<LineScene, 'view'>, above: number) {
  const x = xOf(scene.view, note.startSeconds) + 1.5;
  const bottom = yOf(scene.view, note.midi) - above;
  return { x, bottom, top: bottom - (note.velocity / 127) * STEM_PIXELS };
}

/** Diagonals, cut off at the edges of the rectangle. */
export function addHatching(path: Path2D, x: number, y: number, w: number, h: number): void {
  for (let at = x - h; at < x + w; at += 6) {
    const from = Math.max(at, x);
    const to = Math.min(at + h, x + w);
    path.moveTo(from, y + h - (from - at));
    path.lineTo(to, y + h - (to - at));
  }
}

/** How far left of the first note the line of a stroke lies, in pixels. */
const STROKE_GAP_PIXELS = 4;

/** A fine line through the starts of the notes of each stroke, with a head where the hand went. */
export function drawStrokes(context: CanvasRenderingContext2D, scene: LineScene, width: number): void {
  const { view, strokes, selected } = scene;
  if (strokes.length === 0) return;
  const notes = new Map(scene.notes.map((note) => [note.id, note]));
  const lines = new Path2D();
  const chosen = new Path2D();
  for (const { ids, startSeconds, direction } of strokes) {
    const x = xOf(view, startSeconds);
    if (x < -50 || x > width + 50) continue;
    const struck = ids.flatMap((id) => notes.get(id) ?? []);
    if (struck.length < 2) continue;
    const path = ids.some((id) => selected.has(id)) ? chosen : lines;
    struck.sort((a, b) => a.midi - b.midi);
    const places = struck.map((note) => ({
      x: xOf(view, note.startSeconds) - STROKE_GAP_PIXELS,
      y: yOf(view, note.midi),
    }));
    places.forEach(({ x: px, y }, i) => (i === 0 ? path.moveTo(px, y) : path.lineTo(px, y)));
    if (direction === 'together') continue;
    // Pitch rises in a stroke downwards, from the low strings to the high ones.
    const tip = direction === 'down' ? places[places.length - 1] : places[0];
    const back = direction === 'down' ? 6 : -6;
    path.moveTo(tip.x - 3.5, tip.y + back);
    path.lineTo(tip.x, tip.y);
    path.lineTo(tip.x + 3.5, tip.y + back);
  }
  context.strokeStyle = colours.quietInk;
  context.stroke(lines);
  context.strokeStyle = colours.plum;
  context.lineWidth = 1.5;
  context.stroke(chosen);
  context.lineWidth = 1;
}
