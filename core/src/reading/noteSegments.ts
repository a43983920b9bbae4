/** Third stage of the melody reader: frames become notes by start and end. */
import { median } from '../signal/index.ts';
import type { NoteEvidence } from './noteEvidence.ts';
import type { PitchTrack } from './pitchTrack.ts';

/** A note as frames; `startFrame` is fractional, `onset` is the height of the evidence for its start. */
export interface NoteSegment {
  startFrame: number;
  endFrame: number;
  onset: number;
}

/** Evidence at which a start is believed where the voice sounds on. */
const ONSET_THRESHOLD = 0.3;
/** Evidence that is enough where silence comes before. */
const ONSET_AFTER_SILENCE = 0.2;
/** The larger of two starts closer than this wins (58 ms: a thirty-second note at 128 bpm). */
const MIN_DISTANCE_FRAMES = 5;
const SOUNDING_ENTER = 0.5;
const SOUNDING_LEAVE = 0.45;
/** Holes shorter than this inside a note are bridged. */
const BRIDGE_FRAMES = 3;
/** Notes shorter than 46 ms are not kept. */
const MIN_FRAMES = 4;
/** A run without any start in it must last this long to count as a note. */
const MIN_FRAMES_WITHOUT_ONSET = 8;
/** How far a start may lie from the beginning of its run. */
const REACH_FRAMES = 6;

export function segmentNotes(evidence: NoteEvidence, track: PitchTrack): NoteSegment[] {
  const runs = soundingRuns(evidence.sounding, track.midi);
  const peaks = onsetPeaks(evidence.onset);
  const segments: NoteSegment[] = [];
  for (const run of runs) {
    const starts = peaks.filter(
      (peak, i) =>
        peak.frame >= run.first - REACH_FRAMES &&
        peak.frame < run.last - MIN_FRAMES + 1 &&
        (peak.height >= ONSET_THRESHOLD || peak.frame <= run.first + REACH_FRAMES) &&
        // A peak that belongs to the end of the run before is taken there.
        !(i > 0 && segments.length > 0 && peak.frame < segments[segments.length - 1].endFrame - 1),
    );
    const early = starts.length > 0 && starts[0].frame <= run.first + REACH_FRAMES;
    if (!early) {
      const until = starts.length > 0 ? starts[0].frame : run.last + 1;
      const before = segments[segments.length - 1];
      if (before && goesOn(before, run.first, until, track.midi)) before.endFrame = until;
      else if (until - run.first >= MIN_FRAMES_WITHOUT_ONSET) {
        segments.push({ startFrame: run.first, endFrame: until, onset: 0 });
      }
    }
    starts.forEach((start, i) => {
      const endFrame = i + 1 < starts.length ? starts[i + 1].frame : run.last + 1;
      if (endFrame - start.frame >= MIN_FRAMES) {
        segments.push({ startFrame: start.frame, endFrame, onset: start.height });
      }
    });
  }
  return segments.flatMap((segment) => splitAtSteps(segment, track.midi));
}

/** A note that can hardly be heard for up to 140 ms, and comes back with nothing that looks like a start, is still the same. */
const FADED_FRAMES = 12;
const SAME_PITCH_SEMITONES = 0.5;

function goesOn(before: NoteSegment, from: number, until: number, midi: Float32Array): boolean {
  if (from - before.endFrame > FADED_FRAMES) return false;
  const pitchOf = (first: number, last: number) => median(midi.subarray(Math.max(0, first), last));
  const [was, is] = [
    pitchOf(Math.ceil(before.startFrame), Math.floor(before.endFrame)),
    pitchOf(from, until),
  ];
  return Math.abs(was - is) <= SAME_PITCH_SEMITONES;
}

/** Frames on each side of a step; together longer than a cycle of vibrato, which so evens out. */
const STEP_FRAMES = 12;
/** Frames of a glide that belong to neither side. */
const GLIDE_FRAMES = 3;
/** What stands on one level stays this close to it. */
const STEADY_SEMITONES = 0.6;
/** A slur to another note moves the mean at least this far. */
const STEP_SEMITONES = 0.75;

/**
 * A slur can pass without anything that looks like a start. Where the pitch stands on one level and then on another,
 * one note ends and the next begins, in the middle of the way.
 */
function splitAtSteps(segment: NoteSegment, midi: Float32Array): NoteSegment[] {
  const first = Math.max(0, Math.ceil(segment.startFrame));
  const last = Math.min(midi.length, Math.floor(segment.endFrame));
  const reach = STEP_FRAMES + GLIDE_FRAMES;
  let best = -1;
  let widest = STEP_SEMITONES;
  for (let t = first + reach; t + reach <= last; t++) {
    const step = Math.abs(
      level(midi, t - reach, t - GLIDE_FRAMES) - level(midi, t + GLIDE_FRAMES, t + reach),
    );
    if (step > widest) {
      widest = step;
      best = t;
    }
  }
  if (best < 0) return [segment];
  const at = { startFrame: best, onset: ONSET_THRESHOLD };
  return [
    ...splitAtSteps({ ...segment, endFrame: best }, midi),
    ...splitAtSteps({ ...at, endFrame: segment.endFrame }, midi),
  ];
}

/** Mean pitch of frames that stand on one level; NaN where they do not, which is no step. */
function level(midi: Float32Array, from: number, to: number): number {
  let sum = 0;
  for (let t = from; t < to; t++) {
    if (midi[t] <= 0) return NaN;
    sum += midi[t];
  }
  const mean = sum / (to - from);
  for (let t = from; t < to; t++) if (Math.abs(midi[t] - mean) > STEADY_SEMITONES) return NaN;
  return mean;
}

/** Stretches of frames in which a note sounds, with hysteresis and short holes bridged. */
export function soundingRuns(sounding: Float32Array, midi: Float32Array): { first: number; last: number }[] {
  const runs: { first: number; last: number }[] = [];
  let first = -1;
  for (let t = 0; t <= sounding.length; t++) {
    const value = t < sounding.length && midi[t] > 0 ? sounding[t] : 0;
    if (first < 0 && value >= SOUNDING_ENTER) first = t;
    else if (first >= 0 && value < SOUNDING_LEAVE) {
      const previous = runs[runs.length - 1];
      if (previous && first - previous.last <= BRIDGE_FRAMES) previous.last = t - 1;
      else runs.push({ first, last: t - 1 });
      first = -1;
    }
  }
  return runs.filter((run) => run.last - run.first + 1 >= MIN_FRAMES);
}

function onsetPeaks(onset: Float32Array): { frame: number; height: number }[] {
  const peaks: { frame: number; height: number }[] = [];
  for (let t = 1; t + 1 < onset.length; t++) {
    const height = onset[t];
    if (height < ONSET_AFTER_SILENCE || height < onset[t - 1] || height <= onset[t + 1]) continue;
    const curvature = onset[t - 1] - 2 * height + onset[t + 1];
    const frame = curvature < 0 ? t + (0.5 * (onset[t - 1] - onset[t + 1])) / curvature : t;
    const previous = peaks[peaks.length - 1];
    if (previous && frame - previous.frame < MIN_DISTANCE_FRAMES) {
      if (height > previous.height) peaks[peaks.length - 1] = { frame, height };
    } else {
      peaks.push({ frame, height });
    }
  }
  return peaks;
}
