/** Draws a take while it is recorded: notes of a guide, the waveform, and the line of what is sung. */
import {
  createPassageTime,
  melodyLineOf,
  placedNotes,
  placedRecordings,
  railMidi,
  wantedSpan,
  type Part,
  type TimeMap,
} from '@plundra/core/song';
import type { Surface } from '../../canvas/surface.ts';
import { xOf, type TimeView } from '../../canvas/view.ts';
import type { RecordingNow } from '../../song/recording/recorder.ts';
import { colours } from '../../theme/tokens.ts';
import { markIn, pitchLanes } from './pitchLanes.ts';

/** A note in seconds of the song. */
export interface SeenNote {
  startSeconds: number;
  endSeconds: number;
  midi: number;
}

/** Notes of a part, or of the melodies that were read in it. */
export function notesToSee(part: Part, time: TimeMap): SeenNote[] {
  if (part.kind !== 'recording')
    return placedNotes(part)
      .filter(({ muted }) => !muted)
      .map(({ startTicks, lengthTicks, midi }) => ({
        startSeconds: time.secondsAt(startTicks),
        endSeconds: time.secondsAt(startTicks + lengthTicks),
        midi,
      }));
  return placedRecordings(part).flatMap((passage) => {
    const line = melodyLineOf(passage);
    if (!line || passage.muted) return [];
    const { toSong } = createPassageTime(passage, time);
    return line.notes
      .filter(({ muted }) => !muted)
      .map((note) => {
        const { startSeconds, endSeconds } = wantedSpan(note);
        return {
          startSeconds: toSong(startSeconds),
          endSeconds: toSong(endSeconds),
          midi: railMidi(note, line.tuningCents),
        };
      });
  });
}

interface LiveLook {
  view: TimeView;
  recording: RecordingNow | undefined;
  guide: readonly SeenNote[];
}

const TOP_PIXELS = 8;
const WAVEFORM = `${colours.error}55`;
/** Parts of the sung line that lie further apart than this are not joined. */
const BREATH_SECONDS = 0.06;
const LEAP_SEMITONES = 4;
/** Rounds before the one that is sung now. */
const EARLIER = '#24303A44';

export function drawLiveTake(
  { context, width, height }: Surface,
  { view, recording, guide }: LiveLook,
): void {
  const live = recording?.live;
  const range = live && live.pitches.length > 0 ? [live.lowestMidi, live.highestMidi] : [];
  const lanes = pitchLanes([...guide.map(({ midi }) => midi), ...range], false);
  const box = { top: TOP_PIXELS, height: height - 2 * TOP_PIXELS };
  if (recording) drawWave(context, recording, view, width, height);
  context.fillStyle = '#8B8F8C';
  for (const { startSeconds, endSeconds, midi } of guide) {
    const [left, right] = [xOf(view, startSeconds), xOf(view, endSeconds)];
    if (right < 0 || left > width) continue;
    const { y, height: thick } = markIn(lanes, midi, box);
    context.fillRect(left, y, Math.max(1.5, right - left - 1), thick);
  }
  if (!recording) return;
  const { roundAt, rounds } = roundsOf(recording);
  context.lineWidth = 1.5;
  let open = false;
  let last: { seconds: number; midi: number; round: number } | undefined;
  const finish = () => {
    if (open) context.stroke();
    open = false;
  };
  for (const { seconds, midi } of shownPitches(recording, view, width)) {
    const { songSeconds, round } = roundAt(seconds);
    const joins =
      last !== undefined &&
      last.round === round &&
      seconds - last.seconds < BREATH_SECONDS &&
      Math.abs(midi - last.midi) < LEAP_SEMITONES;
    const { y } = markIn(lanes, midi, box);
    const x = xOf(view, songSeconds);
    if (joins) context.lineTo(x, y + 1.5);
    else {
      finish();
      context.strokeStyle = round === rounds - 1 ? colours.ink : EARLIER;
      context.beginPath();
      context.moveTo(x, y + 1.5);
      open = true;
    }
    last = { seconds, midi, round };
  }
  finish();
  context.lineWidth = 1;
}

/** Rounds before the last few are not drawn any more. */
const DRAWN_ROUNDS = 6;

/** Of an hour only what is in sight. */
function shownPitches(
  { take: { roundSeconds }, live, startSeconds }: RecordingNow,
  view: TimeView,
  width: number,
) {
  const { pitches } = live;
  const now = live.peaks.length * live.columnSeconds;
  const start = live.startSeconds ?? 0;
  const from =
    roundSeconds === undefined ? start + view.startSeconds - startSeconds : now - DRAWN_ROUNDS * roundSeconds;
  const to = roundSeconds === undefined ? from + width / view.pixelsPerSecond : Infinity;
  return pitches.slice(indexAt(pitches, from), indexAt(pitches, to));
}

/** The first that is not before a time. */
function indexAt(pitches: readonly { seconds: number }[], seconds: number): number {
  let [low, high] = [0, pitches.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (pitches[middle].seconds < seconds) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Where a second of what is recorded lies in the song, and in which round. */
function roundsOf({ take: { roundSeconds }, live, startSeconds }: RecordingNow) {
  const start = live.startSeconds ?? 0;
  const roundOf = (seconds: number) =>
    roundSeconds === undefined ? 0 : Math.max(0, Math.floor((seconds - start) / roundSeconds));
  return {
    rounds: 1 + roundOf(live.peaks.length * live.columnSeconds),
    roundAt(seconds: number) {
      const round = roundOf(seconds);
      return { songSeconds: startSeconds + seconds - start - round * (roundSeconds ?? 0), round };
    },
  };
}

/** The waveform of the round that is recorded now. */
function drawWave(
  context: CanvasRenderingContext2D,
  recording: RecordingNow,
  view: TimeView,
  width: number,
  height: number,
): void {
  const { live, startSeconds, take } = recording;
  const { rounds } = roundsOf(recording);
  const from = (live.startSeconds ?? 0) + (rounds - 1) * (take.roundSeconds ?? 0);
  const secondsAtX = (x: number) => from + (view.startSeconds + x / view.pixelsPerSecond - startSeconds);
  const middle = height / 2;
  context.fillStyle = WAVEFORM;
  const left = Math.max(0, Math.floor(xOf(view, startSeconds)));
  for (let x = left; x < width; x++) {
    const first = Math.floor(secondsAtX(x) / live.columnSeconds);
    if (first >= live.peaks.length) break;
    const end = Math.max(first + 1, Math.floor(secondsAtX(x + 1) / live.columnSeconds));
    let loudest = 0;
    for (let i = Math.max(0, first); i < Math.min(end, live.peaks.length); i++)
      loudest = Math.max(loudest, live.peaks[i]);
    const half = Math.max(0.5, loudest * (middle - TOP_PIXELS));
    context.fillRect(x, middle - half, 1, 2 * half);
  }
}
