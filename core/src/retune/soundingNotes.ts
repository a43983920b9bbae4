/** The notes of a recording as they sound: corrected one by one, or moved with its onsets. */
import { clamp, type Cents, type Seconds, type Semitones } from '../signal/index.ts';
import { hzToMidi } from '../theory/index.ts';
import type { Contour } from '../reading/index.ts';
import { nearestNote, railMidi, wantedSpan, type LineNote } from '../song/index.ts';
import type { Corrected } from './correctionSpec.ts';
import { heardTime } from './heardTime.ts';
import { correctedNote } from './lineCorrection.ts';
import { octavesOff, splitPitch } from './pitchShape.ts';

export interface SoundingNote {
  /** Of the line note. */
  id: string;
  /** Seconds of the recording. */
  startSeconds: Seconds;
  endSeconds: Seconds;
  /** Whole note, in the recording's own tuning. */
  midi: number;
  velocity: number;
  muted?: true;
}

/** In the order of the line; empty where none was read. */
export function soundingNotes(read: Corrected): SoundingNote[] {
  const { line } = read;
  if (!line) return [];
  const { toHeard } = heardTime(read);
  return line.notes.map((note) => {
    const span = wantedSpan(note);
    return {
      id: note.id,
      startSeconds: toHeard(span.startSeconds),
      endSeconds: toHeard(span.endSeconds),
      midi: nearestNote(railMidi(note, line.tuningCents), line.tuningCents),
      velocity: note.velocity,
      ...(note.muted && { muted: true as const }),
    };
  });
}

/** A new bend is written when the pitch has moved this far; less cannot be heard. */
const STEP_SEMITONES = 0.03;
const WIDEST_SEMITONES = 2;

export interface BendPoint {
  /** After the start of the note as it sounds. */
  afterSeconds: Seconds;
  semitones: Semitones;
}

/**
 * How a note bends, as it sounds: the contour with the note's correction, against its whole note in the recording's
 * tuning. A note that is pulled wholly to its rail keeps its movement around it; one without vibrato and wander is straight.
 */
export function bendsOfNote(note: LineNote, tuningCents: Cents, contour: Contour): BendPoint[] {
  const corrected = correctedNote(note, tuningCents);
  const { hopSeconds, f0Hz } = contour;
  const points = [];
  for (
    let t = Math.ceil(note.startSeconds / hopSeconds);
    t * hopSeconds < note.endSeconds && t < f0Hz.length;
    t++
  )
    if (f0Hz[t] > 0) points.push({ seconds: t * hopSeconds, midi: hzToMidi(f0Hz[t]) });
  const moved = corrected.toMidi - corrected.midi;
  const named = nearestNote(railMidi(note, tuningCents), tuningCents) + tuningCents / 100;
  // In which octave it was measured does not matter where it was said to be in another.
  const whole =
    named +
    octavesOff(
      points.map(({ midi }) => ({ midi: midi + moved })),
      named,
    );
  const shape = splitPitch(points, note.midi);
  const length = note.endSeconds - note.startSeconds;
  const stretch = length > 0 ? (corrected.toEndSeconds - corrected.toStartSeconds) / length : 1;
  const bends: BendPoint[] = [];
  let last = 0;
  points.forEach(({ seconds, midi }, i) => {
    const shift =
      moved +
      shape.weight[i] *
        ((corrected.driftKept - 1) * shape.drift[i] + (corrected.vibratoKept - 1) * shape.vibrato[i]);
    const semitones = clamp(midi + shift - whole, -WIDEST_SEMITONES, WIDEST_SEMITONES);
    if (Math.abs(semitones - last) < STEP_SEMITONES) return;
    last = Math.round(semitones * 1000) / 1000;
    // The pitch that is heard first holds from the start of the note: before it nothing voiced is known.
    const at = bends.length === 0 && i === 0 ? note.startSeconds : seconds;
    bends.push({ afterSeconds: (at - note.startSeconds) * stretch, semitones: last });
  });
  return bends;
}
