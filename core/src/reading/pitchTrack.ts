import { CANDIDATES } from './pitchCandidates.ts';
import type { FrameFeatures } from './frameFeatures.ts';

/** The most likely pitch of every frame, also where it is doubtful whether anything sounds at all. */
export interface PitchTrack {
  /** Fractional MIDI; 0 where a frame has no candidate. */
  midi: Float32Array;
  /** Probability of the chosen candidate, 0–1. */
  probability: Float32Array;
}

/** Cost of a pitch movement of one semitone from frame to frame, in nats. */
const COST_PER_SEMITONE = 1.1;
/** A leap to a new note costs no more than this, however wide. */
const LEAP_COST = 5.5;
/** Cost of starting or ending a path; leaps across a gap pay it twice. */
const SWITCH_COST = 2.6;
/**
 * Likelihood of the "no pitch" state. Small, because the path should run through doubtful frames: what sounds is
 * judged later from the evidence around a frame, not from the frame alone.
 */
const NO_PITCH_LIKELIHOOD = 0.004;
const TINY = 1e-4;

/**
 * Most likely path through the candidates (Viterbi, as Mauch & Dixon 2014, but on the candidates themselves
 * instead of a pitch grid: finer and several times faster).
 */
export function trackPitch(features: FrameFeatures): PitchTrack {
  const { frames, candidateMidi, candidateProbability } = features;
  const states = CANDIDATES + 1;
  const back = new Int8Array(frames * states);
  let costs = new Float64Array(states).fill(0);
  let next = new Float64Array(states);

  for (let t = 0; t < frames; t++) {
    const at = t * CANDIDATES;
    const previous = at - CANDIDATES;
    for (let k = 0; k < CANDIDATES; k++) {
      const p = candidateProbability[at + k];
      if (p <= 0) {
        next[k] = Infinity;
        continue;
      }
      let best = costs[CANDIDATES] + SWITCH_COST;
      let from = CANDIDATES;
      if (t > 0) {
        for (let j = 0; j < CANDIDATES; j++) {
          if (costs[j] === Infinity) continue;
          const move = Math.abs(candidateMidi[at + k] - candidateMidi[previous + j]) * COST_PER_SEMITONE;
          const cost = costs[j] + (move < LEAP_COST ? move : LEAP_COST);
          if (cost < best) {
            best = cost;
            from = j;
          }
        }
      }
      next[k] = best - Math.log(p + TINY);
      back[t * states + k] = from;
    }
    let best = costs[CANDIDATES];
    let from = CANDIDATES;
    for (let j = 0; j < CANDIDATES; j++) {
      if (t > 0 && costs[j] + SWITCH_COST < best) {
        best = costs[j] + SWITCH_COST;
        from = j;
      }
    }
    next[CANDIDATES] = best - Math.log(NO_PITCH_LIKELIHOOD);
    back[t * states + CANDIDATES] = from;
    let least = Infinity;
    for (let k = 0; k < states; k++) if (next[k] < least) least = next[k];
    for (let k = 0; k < states; k++) next[k] -= least;
    [costs, next] = [next, costs];
  }

  const midi = new Float32Array(frames);
  const probability = new Float32Array(frames);
  let state = 0;
  for (let k = 1; k < states; k++) if (costs[k] < costs[state]) state = k;
  for (let t = frames - 1; t >= 0; t--) {
    const at = t * CANDIDATES;
    if (state < CANDIDATES) {
      midi[t] = candidateMidi[at + state];
      probability[t] = candidateProbability[at + state];
    }
    state = back[t * states + state];
  }
  return { midi, probability };
}
