/** The passages of a part on the Timeline: their grounds, waveforms or notes, fades, names, and which are selected. */
import {
  createPassageTime,
  placedNote,
  placedRecordings,
  railMidi,
  shownNotes,
  type Note,
  type NotePassage,
  type Part,
  type PlacedRecording,
  type TimeMap,
  wantedSpan,
} from '@plundra/core/song';
import { drawChordRow, placedOwnChords } from '../../canvas/chordRow.ts';
import type { Surface } from '../../canvas/surface.ts';
import { gridLines } from '../../canvas/timeGrid.ts';
import { secondsOf, xOf, type TimeView } from '../../canvas/view.ts';
import { drawWaveform, waveformAlong } from '../../canvas/waveform.ts';
import type { KnownRecordings } from '../../song/useRecording.ts';
import { colours, fontFamily, partColours } from '../../theme/tokens.ts';
import { spanOf } from './passageTools.ts';

/** The recording's own chords stand along the lower edge of its waveform. */
const OWN_CHORDS_PIXELS = 18;
const TOP_PIXELS = 4;

export interface PassagesLook {
  part: Part;
  view: TimeView;
  time: TimeMap;
  recordings: KnownRecordings;
  selected: ReadonlySet<string>;
  pictures: Pictures;
}

/** What is drawn of a recording that was read: what sounds, the notes of it over a faint waveform, or both. */
export type Pictures = 'sound' | 'notes' | 'both';

export function drawPassages(surface: Surface, look: PassagesLook): void {
  const { context, height, width } = surface;
  const { part, view, time } = look;
  for (const line of gridLines(view, width, time, 0)) {
    if (line.weight !== 'bar') continue;
    context.fillStyle = '#E6DFD0';
    context.fillRect(Math.round(line.x), 0, 1, height);
  }
  const passages: readonly (PlacedRecording | NotePassage)[] =
    part.kind === 'recording'
      ? placedRecordings(part)
      : part.passages.toSorted((a, b) => a.startTicks - b.startTicks);
  const pitches =
    part.kind === 'recording' ? pitchesOfLines(placedRecordings(part)) : pitchesOf(part.passages);
  for (const passage of passages) {
    const { left, right } = spanOf(passage, view, time);
    if (right < 0 || left > width) continue;
    drawPassage(surface, look, passage, left, Math.max(right, left + 2), pitches);
  }
}

function drawPassage(
  { context, width, height }: Surface,
  { part, view, time, recordings, selected, pictures }: PassagesLook,
  passage: PlacedRecording | NotePassage,
  left: number,
  right: number,
  pitches: Pitches,
): void {
  const colour = partColours[passage.colour ?? part.colour];
  const chosen = selected.has(passage.id);
  const bottom = height - TOP_PIXELS;
  context.save();
  context.globalAlpha = passage.muted ? 0.35 : 1;
  context.beginPath();
  context.roundRect(left, TOP_PIXELS, right - left, bottom - TOP_PIXELS, 4);
  // What lies beneath is covered.
  context.fillStyle = colours.paper;
  context.fill();
  context.fillStyle = `${colour}${chosen ? '33' : '1C'}`;
  context.fill();
  context.clip();
  if (passage.type === 'notes')
    drawNotePicture(
      context,
      passage,
      (ticks) => xOf(view, time.secondsAt(ticks)),
      pitches,
      { top: 0, height },
      width,
      colour,
    );
  else {
    const known = recordings(passage.recordingHash);
    const from = Math.max(0, left);
    const columns = Math.floor(Math.min(width, right) - from);
    if (known.peaks && known.recording && columns > 0) {
      const { toSong, toRecorded } = createPassageTime(passage, time);
      const values = waveformAlong(known.peaks, known.recording.sampleRateHz, columns, (column) =>
        toRecorded(secondsOf(view, from + column)),
      );
      // Hits have no pitches: their waveform says more.
      const rails = pictures !== 'sound' && passage.line && passage.line.reads !== 'hits';
      const strength = !rails ? 'CC' : pictures === 'notes' ? '33' : '77';
      drawWaveform(context, values, from, 8, height - 16, `${colour}${strength}`);
      if (rails) drawRails(context, passage, (seconds) => xOf(view, toSong(seconds)), pitches, height, width);
      drawChordRow(context, placedOwnChords(passage.chords, passage, toSong), view, {
        left: from,
        right: from + columns,
        top: height - OWN_CHORDS_PIXELS - 2,
        height: OWN_CHORDS_PIXELS,
      });
    }
    drawFades(context, passage, view, left, right, bottom, colour);
  }
  drawName(context, passage, left, right, colour);
  context.restore();
  context.strokeStyle = chosen ? colours.plum : `${colour}88`;
  context.lineWidth = chosen ? 2 : 1;
  context.beginPath();
  context.roundRect(left + 0.5, TOP_PIXELS + 0.5, Math.max(1, right - left - 1), bottom - TOP_PIXELS - 1, 4);
  context.stroke();
  context.lineWidth = 1;
}

function drawName(
  context: CanvasRenderingContext2D,
  { name, muted }: PlacedRecording | NotePassage,
  left: number,
  right: number,
  colour: string,
): void {
  const text = [name, muted && 'muted'].filter(Boolean).join(' · ');
  if (!text || right - left < 30) return;
  context.font = `600 11px ${fontFamily}`;
  context.textBaseline = 'top';
  context.fillStyle = colour;
  context.fillText(text, Math.max(4, left + 5), TOP_PIXELS + 3, right - left - 8);
}

/** What a fade takes away is covered; its line can be seen, and its handle once there is room. */
function drawFades(
  context: CanvasRenderingContext2D,
  { fadeInSeconds = 0, fadeOutSeconds = 0 }: PlacedRecording,
  view: TimeView,
  left: number,
  right: number,
  bottom: number,
  colour: string,
): void {
  const fade = (outer: number, inner: number) => {
    if (outer === inner) return;
    context.fillStyle = `${colours.paper}D0`;
    context.beginPath();
    context.moveTo(outer, TOP_PIXELS);
    context.lineTo(inner, TOP_PIXELS);
    context.lineTo(outer, bottom);
    context.fill();
    context.strokeStyle = colour;
    context.beginPath();
    context.moveTo(outer, bottom);
    context.lineTo(inner, TOP_PIXELS);
    context.stroke();
  };
  fade(left, left + fadeInSeconds * view.pixelsPerSecond);
  fade(right, right - fadeOutSeconds * view.pixelsPerSecond);
}

interface Pitches {
  low: number;
  high: number;
}

/** Of all lines of a part, as {@link pitchesOf}. */
function pitchesOfLines(passages: readonly PlacedRecording[]): Pitches {
  let [low, high] = [127, 0];
  for (const { line } of passages)
    for (const note of line?.notes ?? []) {
      const midi = Math.round(railMidi(note, line!.tuningCents));
      low = Math.min(low, midi);
      high = Math.max(high, midi);
    }
  return { low, high };
}

/** The notes of a line as it should be, over its waveform. */
function drawRails(
  context: CanvasRenderingContext2D,
  { line }: PlacedRecording,
  x: (seconds: number) => number,
  { low, high }: Pitches,
  height: number,
  width: number,
): void {
  const span = Math.max(12, high - low + 2);
  context.fillStyle = colours.ink;
  for (const note of line!.notes) {
    if (note.muted) continue;
    const { startSeconds, endSeconds } = wantedSpan(note);
    const [left, right] = [x(startSeconds), x(endSeconds)];
    if (right < 0 || left > width) continue;
    const y = 9 + ((high + 1 - railMidi(note, line!.tuningCents)) / span) * (height - 20);
    context.fillRect(left, y, Math.max(1.5, right - left - 1), 3);
  }
}

/** A part of a folded group: only where it sounds, and how, without names. */
export function drawStrip(
  { context, width }: Surface,
  { part, view, time, recordings }: Pick<PassagesLook, 'part' | 'view' | 'time' | 'recordings'>,
  top: number,
  height: number,
): void {
  const pitches =
    part.kind === 'recording' ? pitchesOfLines(placedRecordings(part)) : pitchesOf(part.passages);
  const passages = part.kind === 'recording' ? placedRecordings(part) : part.passages;
  for (const passage of passages) {
    const { left, right } = spanOf(passage, view, time);
    if (right < 0 || left > width || passage.muted) continue;
    const colour = partColours[passage.colour ?? part.colour];
    context.fillStyle = `${colour}22`;
    context.fillRect(left, top + 0.5, Math.max(2, right - left), height - 1);
    if (passage.type === 'notes') {
      const x = (ticks: number) => xOf(view, time.secondsAt(ticks));
      drawNotePicture(context, passage, x, pitches, { top, height }, width, colour);
      continue;
    }
    const known = recordings(passage.recordingHash);
    const from = Math.max(0, left);
    const columns = Math.floor(Math.min(width, right) - from);
    if (!known.peaks || !known.recording || columns <= 0) continue;
    const { toRecorded } = createPassageTime(passage, time);
    const values = waveformAlong(known.peaks, known.recording.sampleRateHz, columns, (column) =>
      toRecorded(secondsOf(view, from + column)),
    );
    drawWaveform(context, values, from, top, height, `${colour}CC`);
  }
}

/** Of all passages of a part, so that a pitch has the same height in each. */
function pitchesOf(passages: readonly NotePassage[]): Pitches {
  let [low, high] = [127, 0];
  for (const { notes } of passages)
    for (const { midi } of notes) {
      low = Math.min(low, midi);
      high = Math.max(high, midi);
    }
  return { low, high };
}

function drawNotePicture(
  context: CanvasRenderingContext2D,
  passage: NotePassage,
  x: (ticks: number) => number,
  { low, high }: Pitches,
  { top, height }: { top: number; height: number },
  width: number,
  colour: string,
): void {
  const small = height < 40;
  const span = Math.max(12, high - low + 2);
  context.fillStyle = colour;
  for (const each of shownNotes(passage) as Note[]) {
    const { startTicks, lengthTicks, midi } = placedNote(passage, each);
    const left = x(startTicks);
    if (left > width) break;
    const right = x(startTicks + lengthTicks);
    if (right < 0) continue;
    const share = (high + 1 - midi) / span;
    const y = small ? top + share * (height - 2) : 9 + share * (height - 20);
    context.fillRect(left, y, Math.max(1.5, right - left - 1), small ? 1.5 : 3);
  }
}
