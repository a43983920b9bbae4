/** Whether beats fall into three, as in 6/8, or into two; swung halves are two. */
import type { Seconds } from '../../signal/index.ts';
import { RHYTHM_HOP_SECONDS, RHYTHM_INPUTS } from './rhythmFeatures.ts';

/** Rises of the bands among the features. */
const FIRST_RISE = 8;
const RISES = 8;
/** Both thirds must be struck this many times harder than the half, or than what lies between. */
const OVER_HALF = 2;
/** In swing the first third is left out. */
const FIRST_OF_SECOND = 0.27;
/** Less than this share of what rises on beats is nothing. */
const MIN_OF_BEAT = 0.09;
const MIN_BEATS = 4;

/** @param features as rhythmFeatures gives them */
export function isCompound(beats: readonly Seconds[], features: Float32Array): boolean {
  if (beats.length < MIN_BEATS) return false;
  const [beat, first, half, second] = risesAt(beats, features);
  const thirds = (first + second) / 2;
  return thirds > OVER_HALF * half && first > FIRST_OF_SECOND * second && thirds > MIN_OF_BEAT * beat;
}

/** How much rises on beats, and a third, a half and two thirds after them. */
function risesAt(beats: readonly Seconds[], features: Float32Array): number[] {
  const rises = risesOf(features);
  return [0, 1 / 3, 1 / 2, 2 / 3].map((share) => {
    let sum = 0;
    for (let i = 0; i + 1 < beats.length; i++) {
      const frame = Math.round((beats[i] + share * (beats[i + 1] - beats[i])) / RHYTHM_HOP_SECONDS);
      sum += Math.max(rises[frame - 1] ?? 0, rises[frame] ?? 0, rises[frame + 1] ?? 0);
    }
    return sum / (beats.length - 1);
  });
}

/** Sum of the rises of all bands, above its mean. */
function risesOf(features: Float32Array): Float32Array {
  const sums = Float32Array.from({ length: features.length / RHYTHM_INPUTS }, (_, t) => {
    let sum = 0;
    for (let k = 0; k < RISES; k++) sum += features[t * RHYTHM_INPUTS + FIRST_RISE + k];
    return sum;
  });
  const mean = sums.reduce((sum, value) => sum + value, 0) / Math.max(1, sums.length);
  return sums.map((value) => Math.max(0, value - mean));
}
