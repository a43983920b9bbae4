/** Draws a recording as a waveform, its onsets, and over it the beats that were heard, with heads to take hold of. */
import type { Seconds } from '@plundra/core/signal';
import {
  createPassageTime,
  placedRecordings,
  type HeardBeats,
  type RecordingPart,
  type TimeMap,
} from '@plundra/core/song';
import type { Surface } from '../../../canvas/surface.ts';
import { secondsOf, xOf, type TimeView } from '../../../canvas/view.ts';
import { drawWaveform, waveformAlong } from '../../../canvas/waveform.ts';
import type { KnownRecordings } from '../../../song/useRecording.ts';
import { colours, fontFamily, partColours } from '../../../theme/tokens.ts';
import { placeOfBeat } from './beatPlaces.ts';

/** Numbers of bars and heads of beats. */
export const HEAD_PIXELS = 30;
const FOOT_PIXELS = 12;
const HEAD_RADIUS = 5;
/** Beats closer than this are lines without heads, and those that begin no bar are not shown at all. */
const ROOM_FOR_HEADS = 12;
const ROOM_FOR_BEATS = 5;
const ROOM_FOR_NUMBERS = 26;

export interface BeatsLook {
  heard: HeardBeats;
  perBar: number;
  chosen: number | null;
  /** In seconds of the song. */
  taps: readonly Seconds[];
  onsets: readonly Seconds[];
  parts: readonly RecordingPart[];
  recordings: KnownRecordings;
  view: TimeView;
  time: TimeMap;
  toSong(recorded: Seconds): Seconds;
}

export function drawBeats({ context, width, height }: Surface, look: BeatsLook): void {
  const { heard, perBar, chosen, taps, onsets, view, toSong } = look;
  context.fillStyle = colours.laneIn;
  context.fillRect(0, HEAD_PIXELS, width, height - HEAD_PIXELS);
  for (const part of look.parts) drawSound(context, part, look, width, height);
  context.fillStyle = colours.quietInk;
  for (const at of onsets) {
    const x = xOf(view, toSong(at));
    if (x >= 0 && x <= width) context.fillRect(Math.round(x), height - FOOT_PIXELS + 2, 1, FOOT_PIXELS - 3);
  }
  const bars = new Set(heard.downbeats);
  const xs = heard.beats.map((at) => xOf(view, toSong(at)));
  let lastNumberX = -Infinity;
  xs.forEach((x, i) => {
    if (x < -HEAD_RADIUS || x > width + HEAD_RADIUS) return;
    const isBar = bars.has(heard.beats[i]);
    const room = Math.min(x - (xs[i - 1] ?? -Infinity), (xs[i + 1] ?? Infinity) - x);
    if (room < ROOM_FOR_BEATS && !isBar && i !== chosen) return;
    const colour = i === chosen ? colours.plum : colours.ink;
    context.fillStyle = colour;
    context.globalAlpha = isBar || i === chosen ? 1 : 0.55;
    const thick = i === chosen || (isBar && room >= ROOM_FOR_BEATS) ? 2 : 1;
    context.fillRect(Math.round(x) - thick / 2, HEAD_PIXELS - 8, thick, height - HEAD_PIXELS + 8);
    context.globalAlpha = 1;
    if (room >= ROOM_FOR_HEADS || i === chosen) drawHead(context, x, isBar, i === chosen);
    if (!isBar || x - lastNumberX < ROOM_FOR_NUMBERS) return;
    lastNumberX = x;
    context.font = `600 12px ${fontFamily}`;
    context.textBaseline = 'top';
    context.fillText(String(placeOfBeat(heard, i, perBar).bar), x + 7, 2);
  });
  context.fillStyle = colours.sharp;
  for (const at of taps) context.fillRect(Math.round(xOf(view, at)) - 1, HEAD_PIXELS - 8, 2, height);
}

function drawHead(context: CanvasRenderingContext2D, x: number, isBar: boolean, isChosen: boolean): void {
  const y = HEAD_PIXELS - 9;
  context.beginPath();
  context.arc(x, y, HEAD_RADIUS, 0, 2 * Math.PI);
  context.strokeStyle = isChosen ? colours.plum : colours.ink;
  context.lineWidth = 1.5;
  if (!isBar) context.fillStyle = isChosen ? colours.plumWash : colours.panel;
  context.fill();
  context.stroke();
  context.lineWidth = 1;
  context.fillStyle = isChosen ? colours.plum : colours.ink;
}

function drawSound(
  context: CanvasRenderingContext2D,
  part: RecordingPart,
  { view, time, recordings }: BeatsLook,
  width: number,
  height: number,
): void {
  for (const passage of placedRecordings(part)) {
    const known = recordings(passage.recordingHash);
    const { toSong, toRecorded } = createPassageTime(passage, time);
    const left = Math.max(0, xOf(view, toSong(passage.offsetSeconds)));
    const right = Math.min(width, xOf(view, toSong(passage.offsetSeconds + passage.durationSeconds)));
    const columns = Math.floor(right - left);
    if (!known.peaks || !known.recording || columns <= 0) continue;
    const values = waveformAlong(known.peaks, known.recording.sampleRateHz, columns, (column) =>
      toRecorded(secondsOf(view, left + column)),
    );
    const room = height - HEAD_PIXELS - FOOT_PIXELS;
    drawWaveform(context, values, left, HEAD_PIXELS, room, `${partColours[part.colour]}AA`);
  }
}
