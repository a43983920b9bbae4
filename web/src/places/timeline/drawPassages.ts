/** The passages of a part on the Timeline: their grounds, waveforms or notes, fades, names, and which are selected. */
import {
  createPassageTime,
  placedNote,
  placedRecordings,
  shownNotes,
  type Note,
  type NotePassage,
  type Part,
  type PlacedRecording,
  type TimeMap,
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
}

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
  const pitches = part.kind === 'recording' ? undefined : pitchesOf(part.passages);
  for (const passage of passages) {
    const { left, right } = spanOf(passage, view, time);
    if (right < 0 || left > width) continue;
    drawPassage(surface, look, passage, left, Math.max(right, left + 2), pitches);
  }
}

function drawPassage(
  { context, width, height }: Surface,
  { part, view, time, recordings, selected }: PassagesLook,
  passage: PlacedRecording | NotePassage,
  left: number,
  right: number,
  pitches: Pitches | undefined,
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
      pitches!,
      height,
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
      drawWaveform(context, values, from, 8, height - 16, `${colour}CC`);
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
  height: number,
  width: number,
  colour: string,
): void {
  const span = Math.max(12, high - low + 2);
  context.fillStyle = colour;
  for (const each of shownNotes(passage) as Note[]) {
    const { startTicks, lengthTicks, midi } = placedNote(passage, each);
    const left = x(startTicks);
    if (left > width) break;
    const right = x(startTicks + lengthTicks);
    if (right < 0) continue;
    const y = 9 + ((high + 1 - midi) / span) * (height - 20);
    context.fillRect(left, y, Math.max(1.5, right - left - 1), 3);
  }
}
