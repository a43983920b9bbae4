/**
 * The difference function needs a window that holds several periods of the lowest pitch. For a higher pitch it is longer
 * than need be: in a scoop, a slide or a wide vibrato the pitch changes by a tone within it. Once the period is nearly
 * known, it is measured again over a few periods around the middle of the frame.
 */
import { hzToMidi, midiToHz } from '../theory/index.ts';
import { READING_HZ } from './melodySettings.ts';
import { CANDIDATES } from './pitchCandidates.ts';

/** Candidates less likely than this stay as they are. */
const MIN_PROBABILITY = 0.05;
/** Length of the short window in periods, and at least this: 17 ms. */
const PERIODS = 3;
const SHORTEST_WINDOW = 384;
/** Nothing is gained where the short window is not clearly shorter than the long one. */
const LONGEST_SHARE = 0.7;
/** A short period is measured over several of its multiples up to this lag, for finer resolution. */
const LONGEST_LAG = 110;
/** The new period lies within this share of the old one: a semitone. */
const REACH = 0.06;
/** Differences of more than this share of the energy: too noisy for a short window. */
const MAX_DIFFERENCE = 0.2;

/** Replaces the pitches of one frame's candidates in place; `centre`: index of the frame's middle in `samples`. */
export function sharpenCandidates(
  samples: Float32Array,
  centre: number,
  windowSamples: number,
  midi: Float32Array,
  probability: Float32Array,
  offset: number,
): void {
  for (let k = offset; k < offset + CANDIDATES; k++) {
    if (probability[k] < MIN_PROBABILITY) continue;
    const period = READING_HZ / midiToHz(midi[k]);
    const window = Math.max(SHORTEST_WINDOW, Math.round(PERIODS * period));
    if (window > LONGEST_SHARE * windowSamples) continue;
    const multiple = Math.max(1, Math.floor(LONGEST_LAG / period));
    const lag = bestLag(samples, centre, window, multiple * period);
    if (lag > 0) midi[k] = hzToMidi((READING_HZ * multiple) / lag);
  }
}

/** Fractional lag near `expected` at which the signal differs least from itself; 0 if none is clear. */
function bestLag(samples: Float32Array, centre: number, window: number, expected: number): number {
  const start = centre - Math.round((window + expected) / 2);
  const difference = (lag: number): number => {
    let sum = 0;
    let energy = 0;
    for (let i = start, end = start + window; i < end; i++) {
      const [a, b] = [samples[i], samples[i + lag]];
      sum += (a - b) * (a - b);
      energy += a * a + b * b;
    }
    return energy > 0 ? sum / energy : 1;
  };
  const reach = Math.max(1, Math.round(REACH * expected));
  const middle = Math.round(expected);
  let lag = middle;
  let [before, at, after] = [difference(lag - 1), difference(lag), difference(lag + 1)];
  while (before < at || after < at) {
    if (before < after) {
      [at, after] = [before, at];
      before = difference(--lag - 1);
    } else {
      [before, at] = [at, after];
      after = difference(++lag + 1);
    }
    if (Math.abs(lag - middle) > reach) return 0;
  }
  if (at > MAX_DIFFERENCE) return 0;
  const bend = before - 2 * at + after;
  return bend > 0 ? lag + (0.5 * (before - after)) / bend : lag;
}
