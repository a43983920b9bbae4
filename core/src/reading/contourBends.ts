import { clamp, type Midi } from '../signal/index.ts';
import { hzToMidi } from '../theory/index.ts';
import {
  createPassageTime,
  nearestNote,
  wantedSpan,
  type Bend,
  type Line,
  type RecordingPassage,
  type TimeMap,
} from '../song/index.ts';
import type { Contour } from './line.ts';

/** A new bend is written when the pitch has moved this far; less cannot be heard. */
const STEP_SEMITONES = 0.03;
const WIDEST_SEMITONES = 2;

/**
 * Pitch bend that lets a note part sing like its recording: in each note the contour's distance from the whole
 * note, in ticks from the start of the passage; back to 0 at the end of each note.
 */
export function bendsFromContour(
  line: Line,
  contour: Contour,
  passage: RecordingPassage,
  time: TimeMap,
): Bend[] {
  const { toTicks } = createPassageTime(passage, time);
  const bends: Bend[] = [];
  const put = (seconds: number, semitones: Midi) => {
    const startTicks = Math.round(toTicks(seconds)) - passage.startTicks;
    if (startTicks < 0) return;
    const last = bends[bends.length - 1];
    if (last && last.startTicks >= startTicks) last.semitones = semitones;
    else bends.push({ startTicks, semitones });
  };
  for (const note of line.notes) {
    const centre = nearestNote(note.midi, line.tuningCents) + line.tuningCents / 100;
    const shift = wantedSpan(note).startSeconds - note.startSeconds;
    let last = NaN;
    const first = Math.ceil(note.startSeconds / contour.hopSeconds);
    for (let t = first; t * contour.hopSeconds < note.endSeconds && t < contour.f0Hz.length; t++) {
      if (contour.f0Hz[t] <= 0) continue;
      const semitones = clamp(hzToMidi(contour.f0Hz[t]) - centre, -WIDEST_SEMITONES, WIDEST_SEMITONES);
      if (!(Math.abs(semitones - last) < STEP_SEMITONES)) {
        last = Math.round(semitones * 1000) / 1000;
        put(t * contour.hopSeconds + shift, last);
      }
    }
    put(note.endSeconds + shift, 0);
  }
  return bends;
}
