import { hzToMidi } from '../theory/index.ts';
import { READING_HZ } from './melodySettings.ts';

/** Candidates kept of each frame. */
export const CANDIDATES = 5;
/** Second parameter of the Beta(2, b) prior over thresholds; mean 0.1 as in Mauch & Dixon 2014. */
const PRIOR_B = 18;
/** Share of the prior given to the deepest minimum when no threshold reaches it (Mauch & Dixon 2014). */
const UNREACHED_SHARE = 0.01;
/** A short period is measured over several of its multiples, up to this lag, for finer resolution. */
const REFINE_LAG = 110;

/**
 * Turns d'(τ) into up to {@link CANDIDATES} pitches with probabilities that sum to at most 1: the probability of
 * a minimum is the prior mass of all thresholds for which it is the first below the threshold.
 * Writes fractional MIDI notes and probabilities at `offset`; unused places get probability 0. Returns the
 * aperiodicity: d' at its deepest minimum, 0 (perfectly periodic) to 1.
 */
export function writeCandidates(
  normalised: Float32Array,
  shortestLag: number,
  longestLag: number,
  midi: Float32Array,
  probability: Float32Array,
  offset: number,
): number {
  for (let k = 0; k < CANDIDATES; k++) probability[offset + k] = 0;
  let reached = 1;
  let deepest = Infinity;
  let deepestLag = 0;
  for (let lag = shortestLag; lag < longestLag; lag++) {
    const value = normalised[lag];
    if (value >= normalised[lag - 1] || value > normalised[lag + 1]) continue;
    if (value < deepest) {
      deepest = value;
      deepestLag = lag;
    }
    if (value < reached) {
      const mass = priorMass(reached) - priorMass(value);
      reached = value;
      if (mass > 1e-4) insert(lag, mass);
    }
  }
  if (deepestLag > 0) insert(deepestLag, UNREACHED_SHARE * priorMass(deepest));
  return Math.min(1, deepest);

  function insert(lag: number, mass: number) {
    let weakest = 0;
    const note = hzToMidi(READING_HZ / refinedLag(normalised, lag, longestLag));
    for (let k = 0; k < CANDIDATES; k++) {
      if (probability[offset + k] > 0 && Math.abs(midi[offset + k] - note) < 0.05) {
        probability[offset + k] += mass;
        return;
      }
      if (probability[offset + k] < probability[offset + weakest]) weakest = k;
    }
    if (mass > probability[offset + weakest]) {
      midi[offset + weakest] = note;
      probability[offset + weakest] = mass;
    }
  }
}

/** Cumulative Beta(2, b) distribution at `x`. */
function priorMass(x: number): number {
  if (x >= 1) return 1;
  return 1 - (1 - x) ** PRIOR_B * (1 + PRIOR_B * x);
}

/** Period around `lag` by parabolic interpolation, for short periods at the largest multiple that is clear. */
function refinedLag(normalised: Float32Array, lag: number, longestLag: number): number {
  let period = parabolicMinimum(normalised, lag);
  let multiple = 1;
  while ((multiple + 1) * period < Math.min(REFINE_LAG, longestLag - 2)) {
    const next = multiple + 1;
    const guess = Math.round(next * period);
    let best = guess;
    for (let at = guess - 1; at <= guess + 1; at++) if (normalised[at] < normalised[best]) best = at;
    const isMinimum = normalised[best] <= normalised[best - 1] && normalised[best] <= normalised[best + 1];
    if (!isMinimum || normalised[best] > normalised[lag] + 0.15) break;
    period = parabolicMinimum(normalised, best) / next;
    multiple = next;
  }
  return period;
}

function parabolicMinimum(values: Float32Array, at: number): number {
  const before = values[at - 1];
  const after = values[at + 1];
  const curvature = before - 2 * values[at] + after;
  return curvature > 0 ? at + (0.5 * (before - after)) / curvature : at;
}
