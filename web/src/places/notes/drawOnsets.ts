/** Onsets of a recording along the top of its waveform, where they are and where a pull would bring them. */
import { secondsOf, xOf } from '../../canvas/view.ts';
import { colours } from '../../theme/tokens.ts';
import type { CanvasNote } from './canvasNote.ts';
import { BANDS, type LineScene } from './lineScene.ts';

export function drawOnsets(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  scene: LineScene,
  first: number,
  last: number,
  /** How many notes the whole picture shows. */
  seen: number,
): void {
  const top = height - BANDS.waveform + 8;
  const plain = new Path2D();
  const chosen = new Path2D();
  const heads = new Path2D();
  const risks = new Path2D();
  // Heads that would cover each other are left out; the ticks stay.
  const seconds = secondsOf(scene.view, width) - secondsOf(scene.view, BANDS.labels);
  const withHeads = seen < width / 5 || seconds < 12;
  for (let i = first; i < last; i++) {
    const note = scene.notes[i];
    const x = Math.round(xOf(scene.view, (note.played ?? note).startSeconds)) + 0.5;
    if (x < BANDS.labels) continue;
    const isChosen = scene.selected.has(note.id);
    const path = isChosen ? chosen : plain;
    if (scene.unpitched && !scene.before && note.risks) addRiskMark(risks, x + 8, top + 26);
    path.moveTo(x, top + 14);
    path.lineTo(x, height - 4);
    if (!isChosen && !withHeads) continue;
    // The head leans over to where a moved note will start.
    const head = scene.before ? x : onsetHeadX(note, scene.view);
    path.moveTo(x, top + 14);
    path.lineTo(head, top + 6);
    path.moveTo(head + 3, top + 3);
    path.arc(head, top + 3, 3, 0, 2 * Math.PI);
    heads.moveTo(head + 3, top + 3);
    if (!isChosen) heads.arc(head, top + 3, 3, 0, 2 * Math.PI);
    heads.closePath();
  }
  context.fillStyle = colours.panel;
  context.fill(heads);
  context.strokeStyle = '#24303AAA';
  context.stroke(plain);
  context.strokeStyle = context.fillStyle = colours.plum;
  context.fill(chosen);
  context.stroke(chosen);
  context.fillStyle = colours.error;
  context.fill(risks);
}

/** Where the head of a note's onset tick stands: at the start it should have. */
export function onsetHeadX(note: CanvasNote, view: LineScene['view']): number {
  return Math.round(xOf(view, note.startSeconds)) + 0.5;
}

/** Distance of the heads of onset ticks from the top of the waveform band. */
export const ONSET_HEAD_PIXELS = 11;

/** Where a pull would bring onsets, along the top of the waveform. */
export function drawOnsetWays(
  context: CanvasRenderingContext2D,
  height: number,
  { view, notes, wouldGo }: LineScene,
  first: number,
  last: number,
): void {
  const ways = new Path2D();
  const y = height - BANDS.waveform + ONSET_HEAD_PIXELS + 10;
  for (let i = first; i < last; i++) {
    const to = wouldGo.get(notes[i].id);
    const from = xOf(view, notes[i].startSeconds);
    if (!to || from < BANDS.labels || Math.abs(xOf(view, to.startSeconds) - from) < 1) continue;
    ways.moveTo(from, y);
    ways.lineTo(xOf(view, to.startSeconds), y);
    ways.moveTo(xOf(view, to.startSeconds), y - 6);
    ways.lineTo(xOf(view, to.startSeconds), height - 4);
  }
  context.strokeStyle = colours.plum;
  context.stroke(ways);
}

export function addRiskMark(marks: Path2D, x: number, bottom: number): void {
  marks.moveTo(x, bottom - 8);
  marks.lineTo(x + 5, bottom);
  marks.lineTo(x - 5, bottom);
  marks.closePath();
}
