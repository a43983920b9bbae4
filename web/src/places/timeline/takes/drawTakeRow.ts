/** Draws one take of a take table: in each phrase its sung line over the notes that were meant, faint where it was not chosen. */
import {
  createPassageTime,
  isDoubtful,
  melodyLineOf,
  ownsNote,
  railMidi,
  placedNote,
  shownNotes,
  type NotePassage,
  type Passage,
  type TableTake,
  type TimeMap,
} from '@plundra/core/song';
import type { Contour } from '@plundra/core/reading';
import { hzToMidi } from '@plundra/core/theory';
import type { Surface } from '../../../canvas/surface.ts';
import { secondsOf, xOf, type TimeView } from '../../../canvas/view.ts';
import { drawWaveform, waveformAlong } from '../../../canvas/waveform.ts';
import type { KnownRecordings } from '../../../song/useRecording.ts';
import { colours } from '../../../theme/tokens.ts';
import { markIn, type PitchLanes } from '../pitchLanes.ts';

/** A passage of a take with the notes it shows, in seconds of the song. */
export interface TakeSpan {
  fromSeconds: number;
  toSeconds: number;
  chosen: boolean;
  /** What it shows of a recording, and the way there and back; null: it is notes. */
  recorded: {
    from: number;
    to: number;
    toSong(recordedSeconds: number): number;
    toRecorded(songSeconds: number): number;
  } | null;
  notes: readonly { fromSeconds: number; toSeconds: number; midi: number; doubtful: boolean }[];
}

/** Worked out once for many pictures. */
export function spansOf(passages: readonly Passage[], { recorded }: TableTake, time: TimeMap): TakeSpan[] {
  const line = recorded ? melodyLineOf(recorded) : null;
  return passages.map((passage) => {
    if (passage.type === 'notes') return spanOfNotes(passage, time);
    const { toSong, toRecorded } = createPassageTime(passage, time);
    const from = passage.offsetSeconds;
    const to = from + passage.durationSeconds;
    const shown = (line?.notes ?? []).filter((note) => ownsNote(passage, note));
    return {
      fromSeconds: toSong(from),
      toSeconds: toSong(to),
      chosen: !passage.spare,
      recorded: { from, to, toSong, toRecorded },
      notes: shown.map((note) => ({
        fromSeconds: toSong(Math.max(note.startSeconds, from)),
        toSeconds: toSong(Math.min(note.endSeconds, to)),
        midi: railMidi(note, line!.tuningCents),
        doubtful: isDoubtful(note),
      })),
    };
  });
}

function spanOfNotes(passage: NotePassage, time: TimeMap): TakeSpan {
  const notes = shownNotes(passage).filter(({ muted }) => !muted);
  return {
    fromSeconds: time.secondsAt(passage.startTicks),
    toSeconds: time.secondsAt(passage.startTicks + passage.lengthTicks),
    chosen: !passage.spare,
    recorded: null,
    notes: notes.map((note) => {
      const { startTicks, lengthTicks, midi } = placedNote(passage, note);
      return {
        fromSeconds: time.secondsAt(startTicks),
        toSeconds: time.secondsAt(startTicks + lengthTicks),
        midi,
        doubtful: false,
      };
    }),
  };
}

interface TakeRowLook {
  take: TableTake;
  spans: readonly TakeSpan[];
  contour: Contour | undefined;
  lanes: PitchLanes;
  view: TimeView;
  recordings: KnownRecordings;
}

const FIGURES_PIXELS = 18;
const BOTTOM_PIXELS = 5;
const RAIL = '#C9C4B6';
const RAIL_CHOSEN = '#8B8F8C';
const QUIET_LINE = '#8B8F8C';
/** Parts of the contour that are further apart are not joined. */
const LEAP_SEMITONES = 4;

export function drawTakeRow({ context, width, height }: Surface, look: TakeRowLook): void {
  const { take, spans, contour, lanes, view, recordings } = look;
  const box = { top: FIGURES_PIXELS, height: height - FIGURES_PIXELS - BOTTOM_PIXELS };
  const isRead = !take.recorded || melodyLineOf(take.recorded) !== null;
  for (const span of spans) {
    const { chosen, recorded } = span;
    const [left, right] = [xOf(view, span.fromSeconds), xOf(view, span.toSeconds)];
    if (right < 0 || left > width) continue;
    if (chosen) {
      context.fillStyle = colours.panel;
      context.fillRect(left, 2, right - left, height - 4);
    }
    if (!isRead && take.recorded && recorded) {
      const known = recordings(take.recorded.recordingHash);
      const start = Math.max(0, left);
      const columns = Math.floor(Math.min(width, right) - start);
      if (known.peaks && known.recording && columns > 0) {
        const values = waveformAlong(known.peaks, known.recording.sampleRateHz, columns, (column) =>
          recorded.toRecorded(secondsOf(view, start + column)),
        );
        drawWaveform(context, values, start, box.top, box.height, chosen ? '#24303AAA' : '#8B8F8C88');
      }
      continue;
    }
    for (const note of span.notes) {
      const [x, end] = [xOf(view, note.fromSeconds), xOf(view, note.toSeconds)];
      const { y, height: thick } = markIn(lanes, note.midi, box);
      context.fillStyle = chosen ? RAIL_CHOSEN : RAIL;
      context.fillRect(x, y, Math.max(1.5, end - x - 1), thick);
      if (note.doubtful) hatch(context, x, end, box);
    }
    if (contour && recorded)
      drawContour(
        context,
        contour,
        recorded,
        (seconds) => xOf(view, recorded.toSong(seconds)),
        lanes,
        box,
        chosen,
      );
  }
}

function drawContour(
  context: CanvasRenderingContext2D,
  { hopSeconds, f0Hz }: Contour,
  { from, to }: { from: number; to: number },
  x: (seconds: number) => number,
  lanes: PitchLanes,
  box: { top: number; height: number },
  chosen: boolean,
): void {
  context.strokeStyle = chosen ? colours.ink : QUIET_LINE;
  context.lineWidth = chosen ? 1.5 : 1;
  context.beginPath();
  let last = 0;
  const end = Math.min(f0Hz.length, Math.floor(to / hopSeconds));
  for (let i = Math.max(0, Math.ceil(from / hopSeconds)); i < end; i++) {
    const midi = f0Hz[i] > 0 ? hzToMidi(f0Hz[i]) : 0;
    if (midi > 0) {
      const { y, height } = markIn(lanes, midi, box);
      if (last > 0 && Math.abs(midi - last) < LEAP_SEMITONES)
        context.lineTo(x(i * hopSeconds), y + height / 2);
      else context.moveTo(x(i * hopSeconds), y + height / 2);
    }
    last = midi;
  }
  context.stroke();
  context.lineWidth = 1;
}

function hatch(
  context: CanvasRenderingContext2D,
  left: number,
  right: number,
  box: { top: number; height: number },
): void {
  context.save();
  context.beginPath();
  context.rect(left, box.top, Math.max(3, right - left), box.height);
  context.clip();
  context.strokeStyle = `${colours.doubt}66`;
  context.beginPath();
  for (let x = left - box.height; x < right; x += 5) {
    context.moveTo(x, box.top + box.height);
    context.lineTo(x + box.height, box.top);
  }
  context.stroke();
  context.restore();
}
