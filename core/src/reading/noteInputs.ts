/**
 * What the note network sees of each frame: the pitch and how it moves, how sure it is, loudness, onset strength and the spectrum in
 * bands. All is relative to what is loud nearby, so that a quiet recording reads as a loud one.
 */
import { clamp, quantile } from '../signal/index.ts';
import { BAND_COUNT } from './spectralBands.ts';
import type { FrameFeatures } from './frameFeatures.ts';
import type { PitchTrack } from './pitchTrack.ts';

/** Frames ahead and behind with whose pitch a frame's is compared. */
const PITCH_OFFSETS = [-16, -8, -4, -2, -1, 1, 2, 4, 8, 16];
const WIDEST_SEMITONES = 2.5;
/** Own values of a frame before the differences of pitch and the bands. */
const OWN = 8;
export const NOTE_INPUTS = OWN + PITCH_OFFSETS.length + BAND_COUNT;

/** Frames to each side within which the loudest is the measure: 0.7 s. */
const LOUD_REACH_FRAMES = 60;
/** A band's level beside that of the whole frame, in dB: where a middling band of a loud frame comes out near 0. */
const BAND_OFFSET_DB = -6;

/** Frames × {@link NOTE_INPUTS} values. */
export function noteInputs(features: FrameFeatures, track: PitchTrack): Float32Array {
  const { frames, levelDb, bandsDb, onsetStrength, aperiodicity } = features;
  const loud = frames > 0 ? Math.max(-60, quantile(levelDb, 0.95)) : 0;
  const loudest = slidingMaximum(levelDb, LOUD_REACH_FRAMES);
  const inputs = new Float32Array(frames * NOTE_INPUTS);
  for (let t = 0; t < frames; t++) {
    const midi = track.midi[t];
    let k = t * NOTE_INPUTS;
    inputs[k++] = midi > 0 ? (midi - 60) / 24 : 0;
    inputs[k++] = midi > 0 ? 1 : 0;
    inputs[k++] = track.probability[t];
    inputs[k++] = 1 - aperiodicity[t];
    inputs[k++] = clamp((levelDb[t] - loudest[t]) / 15, -3, 0.5) + 1;
    inputs[k++] = clamp((levelDb[t] - loud) / 20, -3, 1) + 1;
    inputs[k++] = Math.min(3, onsetStrength[t] / 4);
    inputs[k++] = features.hall;
    for (const offset of PITCH_OFFSETS) {
      const other = track.midi[t + offset] ?? 0;
      inputs[k++] = midi > 0 && other > 0 ? clamp(other - midi, -WIDEST_SEMITONES, WIDEST_SEMITONES) : 0;
    }
    for (let b = 0; b < BAND_COUNT; b++)
      inputs[k++] = clamp((bandsDb[t * BAND_COUNT + b] - loudest[t] - BAND_OFFSET_DB) / 25, -2, 1) + 1;
  }
  return inputs;
}

/** Largest value within ±`reach` places. */
function slidingMaximum(values: Float32Array, reach: number): Float32Array {
  const out = new Float32Array(values.length);
  const queue = new Int32Array(values.length);
  let head = 0;
  let tail = 0;
  for (let right = 0; right < values.length + reach; right++) {
    if (right < values.length) {
      while (tail > head && values[queue[tail - 1]] <= values[right]) tail--;
      queue[tail++] = right;
    }
    const centre = right - reach;
    if (centre < 0) continue;
    while (queue[head] < centre - reach) head++;
    out[centre] = values[queue[head]];
  }
  return out;
}
