/** Fourth stage of the melody reader: what each note is, measured on its frames. */
import { clamp, quantile, weightedMedian } from '../signal/index.ts';
import type { FrameFeatures } from './frameFeatures.ts';
import type { ReadNote } from './line.ts';
import { HOP_SECONDS } from './melodySettings.ts';
import type { NoteEvidence } from './noteEvidence.ts';
import type { NoteSegment } from './noteSegments.ts';
import type { PitchTrack } from './pitchTrack.ts';

/** Root mean square level that gives velocity 127, and the dB for each factor of ten below it. */
const LOUDEST_DB = -8;
const DB_PER_DECADE = 60;

/**
 * Velocity 1–127 of a level in dB below full scale: 30 dB of dynamics reach from 127 to 40, so that a soft
 * backing voice gives soft notes without falling silent. (Common practice puts velocity on a 40 dB decade; the
 * gentler 60 keeps quiet notes playable.)
 */
export function velocityOfLevel(levelDb: number): number {
  return Math.round(clamp(127 * 10 ** ((levelDb - LOUDEST_DB) / DB_PER_DECADE), 1, 127));
}

export function measureNote(
  segment: NoteSegment,
  features: FrameFeatures,
  track: PitchTrack,
  evidence: NoteEvidence,
): ReadNote | undefined {
  const [first, last] = frameSpan(segment, features.frames);
  const midi = stablePitch(first, last, track, features);
  if (midi === undefined) return undefined;
  return {
    startSeconds: Math.max(0, segment.startFrame * HOP_SECONDS),
    endSeconds: segment.endFrame * HOP_SECONDS,
    midi,
    velocity: velocityOfLevel(quantile(features.levelDb.subarray(first, last), 0.9)),
    confidence: noteConfidence(gatherEvidence(segment, midi, track, evidence)),
  };
}

/** What the confidence of a note rests on. */
export interface ConfidenceEvidence {
  onset: number;
  sounding: number;
  certainty: number;
  /** Mean distance of the contour from the note's pitch in semitones, at most 1. */
  spread: number;
  lengthFrames: number;
}

/** Means over the frames of a segment that was found to have the pitch `midi`. */
export function gatherEvidence(
  segment: NoteSegment,
  midi: number,
  track: PitchTrack,
  evidence: NoteEvidence,
): ConfidenceEvidence {
  const [first, last] = frameSpan(segment, track.midi.length);
  const lengthFrames = last - first;
  let sounding = 0;
  let spread = 0;
  let certainty = 0;
  for (let t = first; t < last; t++) {
    sounding += evidence.sounding[t] / lengthFrames;
    certainty += track.probability[t] / lengthFrames;
    spread += (track.midi[t] > 0 ? Math.min(1, Math.abs(track.midi[t] - midi)) : 1) / lengthFrames;
  }
  return { onset: segment.onset, sounding, certainty, spread, lengthFrames };
}

function frameSpan(segment: NoteSegment, frames: number): [first: number, last: number] {
  const first = Math.max(0, Math.ceil(segment.startFrame));
  return [first, Math.min(frames, Math.max(first + 1, Math.round(segment.endFrame)))];
}

/** What the logistic regression weighs. */
export function confidenceInputs(e: ConfidenceEvidence): number[] {
  const length = Math.min(1, Math.log(e.lengthFrames / 20));
  return [1, e.onset, e.sounding, e.certainty, e.spread, Math.min(0, length), Math.max(0, length)];
}

/**
 * Fitted on clips that the network was not trained on (bench/src/training/calibrate.ts): right = matched by a true note within 50 ms and
 * 50 cents. Order: bias, onset, sounding, certainty, spread, shortness, length.
 */
const CONFIDENCE_WEIGHTS = [-1.37, 5.21, -1.22, 2.83, -0.07, 0.03, 0.44];

export function noteConfidence(evidence: ConfidenceEvidence): number {
  const inputs = confidenceInputs(evidence);
  const logit = inputs.reduce((sum, value, i) => sum + value * CONFIDENCE_WEIGHTS[i], 0);
  return 1 / (1 + Math.exp(-logit));
}

/** Frames left out at the start (scoop or slide) and end (release) of a note, at most these shares of it. */
const ATTACK_FRAMES = 7;
const ATTACK_SHARE = 0.35;
const RELEASE_FRAMES = 4;
const RELEASE_SHARE = 0.15;

/**
 * Robust centre of the frames `first`…`last − 1`: the median weighted by certainty and loudness, over the stable
 * part. Undefined when no frame has a pitch.
 */
export function stablePitch(
  first: number,
  last: number,
  track: PitchTrack,
  features: Pick<FrameFeatures, 'levelDb'>,
): number | undefined {
  const count = last - first;
  const from = first + Math.round(Math.min(ATTACK_FRAMES, count * ATTACK_SHARE));
  const to = last - Math.round(Math.min(RELEASE_FRAMES, count * RELEASE_SHARE));
  const pitches: number[] = [];
  const weights: number[] = [];
  for (let t = from; t < Math.max(to, from + 1) && t < track.midi.length; t++) {
    if (track.midi[t] <= 0) continue;
    pitches.push(track.midi[t]);
    weights.push((0.05 + track.probability[t]) * 10 ** (Math.max(-90, features.levelDb[t]) / 40));
  }
  const centre = weightedMedian(pitches, weights);
  return Number.isNaN(centre) ? undefined : centre;
}
