/** The passages of a part on the Timeline: their grounds, waveforms or notes, fades, names, and which are selected. */
import {
  chosenPassages,
  createPassageTime,
  placedNote,
  placedRecordings,
  railMidi,
  shownNotes,
  type Note,
  type NotePart,
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
import { markIn, pitchLanes, type PitchLanes } from './pitchLanes.ts';

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
      : chosenPassages(part).toSorted((a, b) => a.startTicks - b.startTicks);
  const pitches = part.kind === 'recording' ? pitchesOfLines(placedRecordings(part)) : pitchesOf(part);
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
  pitches: PitchLanes,
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
      const rails = pictures !== 'sound' && passage.line;
      const strength = !rails ? 'CC' : pictures === 'notes' ? '33' : '77';
      const margin = Math.min(8, height / 8);
      drawWaveform(context, values, from, margin, height - 2 * margin, `${colour}${strength}`);
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

/** Of all lines of a part, as {@link pitchesOf}. */
function pitchesOfLines(passages: readonly PlacedRecording[]): PitchLanes {
  const read = passages.flatMap(({ line }) => line ?? []);
  const midis = read.flatMap((line) => line.notes.map((note) => railMidi(note, line.tuningCents)));
  return pitchLanes(midis, read.length > 0 && read.every(({ reads }) => reads === 'hits'));
}

/** The notes of a line as it should be, over its waveform. */
function drawRails(
  context: CanvasRenderingContext2D,
  { line }: PlacedRecording,
  x: (seconds: number) => number,
  lanes: PitchLanes,
  height: number,
  width: number,
): void {
  context.fillStyle = colours.ink;
  const box = { top: NOTES_TOP_PIXELS, height: height - NOTES_TOP_PIXELS - NOTES_BOTTOM_PIXELS };
  for (const note of line!.notes) {
    if (note.muted) continue;
    const { startSeconds, endSeconds } = wantedSpan(note);
    const [left, right] = [x(startSeconds), x(endSeconds)];
    if (right < 0 || left > width) continue;
    fillMark(context, lanes, railMidi(note, line!.tuningCents), left, right, box);
  }
}

/** A part of a folded group: only where it sounds, and how, without names. */
export function drawStrip(
  { context, width }: Surface,
  { part, view, time, recordings }: Pick<PassagesLook, 'part' | 'view' | 'time' | 'recordings'>,
  top: number,
  height: number,
): void {
  const pitches = part.kind === 'recording' ? pitchesOfLines(placedRecordings(part)) : pitchesOf(part);
  const passages = part.kind === 'recording' ? placedRecordings(part) : chosenPassages(part);
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
function pitchesOf({ kind, passages }: NotePart): PitchLanes {
  return pitchLanes(
    passages.flatMap(({ notes }) => notes.map(({ midi }) => midi)),
    kind === 'drums',
  );
}

function drawNotePicture(
  context: CanvasRenderingContext2D,
  passage: NotePassage,
  x: (ticks: number) => number,
  lanes: PitchLanes,
  { top, height }: { top: number; height: number },
  width: number,
  colour: string,
): void {
  // In a folded group the whole strip is theirs.
  const box =
    height < STRIP_PIXELS
      ? { top, height }
      : { top: NOTES_TOP_PIXELS, height: height - NOTES_TOP_PIXELS - NOTES_BOTTOM_PIXELS };
  context.fillStyle = colour;
  for (const each of shownNotes(passage) as Note[]) {
    const { startTicks, lengthTicks, midi } = placedNote(passage, each);
    const left = x(startTicks);
    if (left > width) break;
    const right = x(startTicks + lengthTicks);
    if (right < 0) continue;
    fillMark(context, lanes, midi, left, right, box);
  }
}

/** Lower pictures are strips. */
const STRIP_PIXELS = 30;
const NOTES_TOP_PIXELS = 9;
const NOTES_BOTTOM_PIXELS = 11;

/** A note as a bar, a hit as a stroke in the row of its drum. */
function fillMark(
  context: CanvasRenderingContext2D,
  lanes: PitchLanes,
  midi: number,
  left: number,
  right: number,
  box: { top: number; height: number },
): void {
  const { y, height } = markIn(lanes, midi, box);
  context.fillRect(left, y, lanes.rows ? 2 : Math.max(1.5, right - left - 1), height);
}
