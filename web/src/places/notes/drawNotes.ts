/** Rails, contour, deviation and note bars: what changes with the notes. */
import type { Contour } from '@plundra/core/reading';
import { octavesOff, splitPitch } from '@plundra/core/retune';
import { hzToMidi } from '@plundra/core/theory';
import type { Surface } from '../../canvas/surface.ts';
import { secondsOf, xOf, yOf } from '../../canvas/view.ts';
import { colours } from '../../theme/tokens.ts';
import type { CanvasNote } from './canvasNote.ts';
import type { Columns } from './changedColumns.ts';
import { addHatching, drawBar, drawStrokes, REMOVED_ALPHA } from './drawBars.ts';
import { addRiskMark, drawOnsets, drawOnsetWays } from './drawOnsets.ts';
import {
  BANDS,
  noteBand,
  visibleNotes,
  recordingOf,
  type LineScene,
  type SceneRecording,
} from './lineScene.ts';

/** Deviations within this are in tune. */
const IN_TUNE_CENTS = 10;
/** The area is filled as far as this from the rail. */
const FILL_SEMITONES = 1.2;
/** Contour frames joined into one column where several fall on one pixel. */
const MIN_PIXELS_PER_POINT = 1;

/** Draws all of it, or what lies in some columns of it. */
export function drawNotes(
  { context, width, height }: Surface,
  scene: LineScene,
  reachSeconds: number,
  columns?: Columns,
): void {
  const { view, notes } = scene;
  const band = noteBand(height, scene.recordings !== null);
  const left = Math.max(BANDS.labels, columns?.left ?? 0);
  const right = Math.min(width, columns?.right ?? width);
  if (left >= right) return;
  // A note that was moved into sight, or out of it, shows where it was played as well.
  const [first, last] = visibleNotes(
    notes,
    secondsOf(view, left),
    secondsOf(view, right) + reachSeconds,
    reachSeconds,
  );
  context.save();
  if (columns) {
    context.beginPath();
    context.rect(columns.left, 0, columns.right - columns.left, height);
    context.clip();
  }
  if (scene.recordings) {
    const [firstSeen, lastSeen] = visibleNotes(
      notes,
      secondsOf(view, BANDS.labels),
      secondsOf(view, width),
      reachSeconds,
    );
    drawOnsets(context, width, height, scene, first, last, lastSeen - firstSeen);
  }
  context.save();
  context.beginPath();
  context.rect(BANDS.labels + 1, band.top, width - BANDS.labels, band.bottom - band.top);
  context.clip();
  context.translate(0, band.top);
  if (scene.unpitched) {
    drawBackdrop(context, scene, secondsOf(view, left), secondsOf(view, right));
    context.restore();
    drawOnsetWays(context, height, scene, first, last);
    return context.restore();
  }
  for (const recording of scene.recordings ?? [])
    if (recording.contour) drawLooseContour(context, left, right, scene, recording, recording.contour);
  drawLeader(context, scene);
  const [kept, removed] = [createBatch(), createBatch()];
  for (let i = first; i < last; i++) {
    const note = notes[i];
    const faint = note.muted || scene.previewRemoved.has(note.id);
    if (note.played) addLineNote(faint ? removed : kept, note, scene);
    else drawBar(context, note, scene);
  }
  drawBatch(context, kept, 1);
  drawBatch(context, removed, REMOVED_ALPHA);
  for (let i = first; i < last; i++) outline(context, notes[i], scene);
  drawAdded(context, scene);
  drawStrokes(context, scene, width);
  drawSounding(context, scene, first, last);
  drawWays(context, scene, first, last);
  drawRisks(context, scene, first, last);
  context.restore();
  context.restore();
}

const BACKDROP_ALPHA = 0.4;

/** The notes of a chordal recording while its onsets are moved. */
function drawBackdrop(
  context: CanvasRenderingContext2D,
  { view, backdrop, partColour }: LineScene,
  fromSeconds: number,
  toSeconds: number,
): void {
  const h = Math.max(3, Math.min(14, view.pixelsPerSemitone * 0.62));
  context.fillStyle = partColour;
  context.globalAlpha = BACKDROP_ALPHA;
  for (const { startSeconds, endSeconds, midi, muted } of backdrop) {
    if (muted || endSeconds < fromSeconds || startSeconds > toSeconds) continue;
    const x = xOf(view, startSeconds);
    context.fillRect(x, yOf(view, midi) - h / 2, Math.max(2, xOf(view, endSeconds) - x - 1), h);
  }
  context.globalAlpha = 1;
}

/** Notes that an open proposal would add: dashed frames, hatched as what is doubtful. */
function drawAdded(context: CanvasRenderingContext2D, { view, previewAdded }: LineScene): void {
  const h = Math.max(5, view.pixelsPerSemitone * 0.7);
  for (const { startSeconds, endSeconds, midi } of previewAdded) {
    const [x, y] = [xOf(view, startSeconds), yOf(view, midi) - h / 2];
    const w = Math.max(3, xOf(view, endSeconds) - x);
    const hatching = new Path2D();
    addHatching(hatching, x, y, w, h);
    context.strokeStyle = colours.doubt;
    context.stroke(hatching);
    context.strokeStyle = colours.plum;
    context.setLineDash([4, 3]);
    context.strokeRect(x, y, w, h);
    context.setLineDash([]);
  }
}

/** Notes of the part that is followed: dashed frames, joined to their partners by a fine line. */
function drawLeader(context: CanvasRenderingContext2D, scene: LineScene): void {
  const { view, leader } = scene;
  if (leader.length === 0) return;
  const notes = new Map(scene.notes.map((note) => [note.id, note]));
  const h = Math.max(5, view.pixelsPerSemitone * 0.7);
  for (const each of leader) {
    const x = xOf(view, each.startSeconds);
    const y = yOf(view, each.midi);
    context.strokeStyle = colours.plum;
    context.globalAlpha = each.partnerId ? 0.8 : 0.4;
    context.setLineDash([3, 3]);
    context.strokeRect(x, y - h / 2, Math.max(3, xOf(view, each.endSeconds) - x), h);
    context.setLineDash([]);
    const partner = each.partnerId ? notes.get(each.partnerId) : undefined;
    if (!partner) continue;
    context.beginPath();
    context.moveTo(xOf(view, partner.startSeconds), yOf(view, partner.midi));
    context.lineTo(x, y);
    context.stroke();
  }
  context.globalAlpha = 1;
}

/** Arrows to where a pull or lock would bring the starts of notes. */
function drawWays(
  context: CanvasRenderingContext2D,
  { view, notes, wouldGo }: LineScene,
  first: number,
  last: number,
): void {
  if (wouldGo.size === 0) return;
  const ways = new Path2D();
  const heads = new Path2D();
  for (let i = first; i < last; i++) {
    const to = wouldGo.get(notes[i].id);
    if (!to) continue;
    const [x0, x1] = [xOf(view, notes[i].startSeconds), xOf(view, to.startSeconds)];
    if (Math.abs(x1 - x0) < 1) continue;
    const y = yOf(view, notes[i].midi) + view.pixelsPerSemitone * 0.75;
    const back = Math.sign(x0 - x1) * Math.min(5, Math.abs(x1 - x0));
    ways.moveTo(x0, y);
    ways.lineTo(x1, y);
    ways.moveTo(x1, y - 6);
    ways.lineTo(x1, y + 6);
    heads.moveTo(x1, y);
    heads.lineTo(x1 + back, y - 3.5);
    heads.lineTo(x1 + back, y + 3.5);
  }
  context.strokeStyle = context.fillStyle = colours.plum;
  context.lineWidth = 1.5;
  context.stroke(ways);
  context.fill(heads);
  context.lineWidth = 1;
}

/** Outlines where notes sound that follow the chords, joined to where they were written. */
function drawSounding(
  context: CanvasRenderingContext2D,
  { view, notes, sounding }: LineScene,
  first: number,
  last: number,
): void {
  if (sounding.size === 0) return;
  const outlines = new Path2D();
  const height = Math.max(4, Math.min(12, view.pixelsPerSemitone * 0.5));
  for (let i = first; i < last; i++) {
    const midi = sounding.get(notes[i].id);
    if (midi === undefined) continue;
    const x = xOf(view, notes[i].startSeconds);
    const y = yOf(view, midi);
    outlines.rect(x, y - height / 2, Math.max(3, xOf(view, notes[i].endSeconds) - x - 1), height);
    outlines.moveTo(x, yOf(view, notes[i].midi));
    outlines.lineTo(x, y);
  }
  context.strokeStyle = colours.plum;
  context.stroke(outlines);
}

/** A small triangle over notes whose correction may be heard. */
function drawRisks(
  context: CanvasRenderingContext2D,
  { view, notes, before }: LineScene,
  first: number,
  last: number,
): void {
  if (before) return;
  const marks = new Path2D();
  for (let i = first; i < last; i++) {
    const note = notes[i];
    if (!note.risks?.length) continue;
    const y = yOf(view, note.midi) - Math.max(9, view.pixelsPerSemitone * 0.7);
    addRiskMark(marks, xOf(view, note.startSeconds) + 5, y);
  }
  context.fillStyle = colours.error;
  context.fill(marks);
}

/** Line notes as a few long paths: thousands of small ones take the screen several times as long. */
interface Batch {
  rails: Path2D;
  sharp: Path2D;
  flat: Path2D;
  inTune: Path2D;
  ink: Path2D;
  /** The contour as recorded, behind a corrected one. */
  faint: Path2D;
  hatching: Path2D;
}

function createBatch(): Batch {
  return {
    rails: new Path2D(),
    sharp: new Path2D(),
    flat: new Path2D(),
    inTune: new Path2D(),
    ink: new Path2D(),
    faint: new Path2D(),
    hatching: new Path2D(),
  };
}

function drawBatch(context: CanvasRenderingContext2D, batch: Batch, alpha: number): void {
  context.globalAlpha = alpha;
  // Neutral, so that only the deviation carries the pitch colours.
  context.fillStyle = '#8F8B84';
  context.fill(batch.rails);
  context.globalAlpha = alpha * 0.6;
  context.fillStyle = colours.sharp;
  context.fill(batch.sharp);
  context.fillStyle = colours.flat;
  context.fill(batch.flat);
  context.fillStyle = colours.inTune;
  context.fill(batch.inTune);
  context.globalAlpha = alpha * 0.45;
  context.strokeStyle = colours.quietInk;
  context.stroke(batch.faint);
  context.globalAlpha = alpha;
  context.strokeStyle = colours.ink;
  context.lineWidth = 1.4;
  context.stroke(batch.ink);
  context.lineWidth = 1;
  context.globalAlpha = alpha * 0.75;
  context.strokeStyle = colours.doubt;
  context.stroke(batch.hatching);
  context.globalAlpha = 1;
}

function railHeight(scene: LineScene): number {
  return Math.min(7, Math.max(3, scene.view.pixelsPerSemitone * 0.32));
}

function addLineNote(batch: Batch, note: CanvasNote, scene: LineScene): void {
  const { view } = scene;
  const x = xOf(view, note.startSeconds);
  const w = Math.max(2, xOf(view, note.endSeconds) - x);
  const y = yOf(view, note.midi);
  const rail = railHeight(scene);
  if (w > rail) batch.rails.roundRect(x, y - rail / 2, w, rail, rail / 2);
  else batch.rails.rect(x, y - rail / 2, w, rail);
  addContour(batch, note, scene);
  if (note.doubtful)
    addHatching(batch.hatching, x, y - view.pixelsPerSemitone * 0.5, w, view.pixelsPerSemitone);
}

/**
 * The contour of one note as a fine line, with the area to the rail filled by how far it is off. Where the sound will
 * be corrected the line is the corrected one, and the recorded one stays behind it, faint.
 */
function addContour(batch: Batch, note: CanvasNote, scene: LineScene): void {
  const recording = recordingOf(scene, note);
  const contour = recording?.contour;
  if (!recording || !contour || !note.played) return;
  const { view } = scene;
  const { played } = note;
  const frameAt = (seconds: number) => recording.toRecorded(seconds) / contour.hopSeconds;
  const first = Math.max(0, Math.ceil(frameAt(played.startSeconds) - 1e-6));
  const last = Math.min(contour.f0Hz.length - 1, Math.floor(frameAt(played.endSeconds) + 1e-6));
  const after = !scene.before && note.sound !== undefined;
  const shape = after ? soundingShape(note, contour, first, last) : undefined;
  const moved = octavesMoved(note, contour, first, last);
  const speed =
    (note.endSeconds - note.startSeconds) / Math.max(1e-6, played.endSeconds - played.startSeconds);
  const step = Math.max(1, Math.floor(MIN_PIXELS_PER_POINT / (contour.hopSeconds * view.pixelsPerSecond)));
  const railY = yOf(view, note.midi);
  let open = false;
  let openBefore = false;
  const hopInSong =
    recording.toSong((first + 1) * contour.hopSeconds) - recording.toSong(first * contour.hopSeconds);
  const columnWidth = hopInSong * view.pixelsPerSecond * step * (after ? speed : 1);
  for (let t = first; t <= last; t += step) {
    const f0Hz = contour.f0Hz[t];
    if (f0Hz <= 0) {
      open = openBefore = false;
      continue;
    }
    const recorded = hzToMidi(f0Hz) - moved;
    const seconds = recording.toSong(t * contour.hopSeconds);
    if (after) {
      const [x, y] = [xOf(view, seconds), yOf(view, recorded)];
      if (openBefore) batch.faint.lineTo(x, y);
      else batch.faint.moveTo(x, y);
      openBefore = true;
    }
    const midi = shape ? recorded + shape[t - first] : recorded;
    const off = midi - note.midi;
    if (Math.abs(off) > 6) {
      open = false;
      continue;
    }
    const at = scene.before ? seconds : note.startSeconds + (seconds - played.startSeconds) * speed;
    const [x, y] = [xOf(view, at), yOf(view, midi)];
    const kind = Math.abs(off * 100) <= IN_TUNE_CENTS ? 'inTune' : off > 0 ? 'sharp' : 'flat';
    // Glides from far away belong to the transition, not to the note.
    if (Math.abs(off) <= FILL_SEMITONES)
      batch[kind].rect(x - columnWidth / 2, Math.min(y, railY), columnWidth + 0.5, Math.abs(y - railY));
    if (open) batch.ink.lineTo(x, y);
    else batch.ink.moveTo(x, y);
    open = true;
  }
}

const knownOctaves = new WeakMap<CanvasNote, { contour: Contour; semitones: number }>();

/** A note that was moved by octaves has its contour with it. */
function octavesMoved(note: CanvasNote, contour: Contour, first: number, last: number): number {
  let known = knownOctaves.get(note);
  if (known?.contour !== contour) {
    const points: { midi: number }[] = [];
    for (let t = first; t <= last; t++)
      if (contour.f0Hz[t] > 0) points.push({ midi: hzToMidi(contour.f0Hz[t]) });
    knownOctaves.set(note, (known = { contour, semitones: octavesOff(points, note.played!.midi) }));
  }
  return known.semitones;
}

const shapes = new WeakMap<CanvasNote, Float32Array>();

/** Semitones by which each frame of a corrected note will be moved. */
function soundingShape(note: CanvasNote, contour: Contour, first: number, last: number): Float32Array {
  const known = shapes.get(note);
  if (known && known.length === last - first + 1) return known;
  const { midi, vibratoKept, driftKept } = note.sound!;
  const played = note.played!.midi;
  const shape = new Float32Array(Math.max(0, last - first + 1)).fill(midi - played);
  if (vibratoKept !== 1 || driftKept !== 1) {
    const frames: number[] = [];
    for (let t = first; t <= last; t++) if (contour.f0Hz[t] > 0) frames.push(t);
    const points = frames.map((t) => ({
      seconds: t * contour.hopSeconds,
      midi: hzToMidi(contour.f0Hz[t]),
    }));
    const { drift, vibrato, weight } = splitPitch(points, played);
    frames.forEach((t, i) => {
      shape[t - first] += weight[i] * ((driftKept - 1) * drift[i] + (vibratoKept - 1) * vibrato[i]);
    });
  }
  shapes.set(note, shape);
  return shape;
}

/** Voiced stretches that belong to no note, faintly: what may have been missed can be seen. */
function drawLooseContour(
  context: CanvasRenderingContext2D,
  left: number,
  right: number,
  scene: LineScene,
  recording: SceneRecording,
  contour: Contour,
): void {
  const { view } = scene;
  const step = Math.max(1, Math.floor(MIN_PIXELS_PER_POINT / (contour.hopSeconds * view.pixelsPerSecond)));
  const frameAt = (x: number) => recording.toRecorded(secondsOf(view, x)) / contour.hopSeconds;
  // The same points wherever the drawing starts, and with them the corners of the line.
  const { hopSeconds } = contour;
  const [from, to] = [Math.ceil(recording.fromSeconds / hopSeconds), recording.toSeconds / hopSeconds];
  const first = Math.max(Math.ceil(from / step) * step, (Math.floor(frameAt(left) / step) - 2) * step);
  const last = Math.min(contour.f0Hz.length - 1, Math.floor(to), Math.ceil(frameAt(right)) + 2 * step);
  const path = new Path2D();
  let open = false;
  let before = 0;
  for (let t = first; t <= last; t += step) {
    const f0Hz = contour.f0Hz[t];
    if (f0Hz <= 0) {
      open = false;
      continue;
    }
    const midi = hzToMidi(f0Hz);
    const x = xOf(view, recording.toSong(t * contour.hopSeconds));
    if (open && Math.abs(midi - before) < 3) path.lineTo(x, yOf(view, midi));
    else path.moveTo(x, yOf(view, midi));
    open = true;
    before = midi;
  }
  context.strokeStyle = '#24303A55';
  context.stroke(path);
}

function outline(context: CanvasRenderingContext2D, note: CanvasNote, scene: LineScene): void {
  const chosen = scene.selected.has(note.id);
  const previewed = scene.previewed.has(note.id);
  if (!chosen && !previewed) return;
  const x = xOf(scene.view, note.startSeconds);
  const y = yOf(scene.view, note.midi);
  const w = Math.max(2, xOf(scene.view, note.endSeconds) - x - (note.played ? 0 : 1));
  const half = Math.max(8, scene.view.pixelsPerSemitone * 0.62);
  context.strokeStyle = colours.plum;
  context.lineWidth = chosen ? 2 : 1.5;
  context.setLineDash(chosen ? [] : [4, 3]);
  context.beginPath();
  context.roundRect(x - 3, y - half, w + 6, half * 2, 5);
  context.stroke();
  context.setLineDash([]);
  context.lineWidth = 1;
}
