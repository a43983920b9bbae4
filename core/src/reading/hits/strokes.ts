/**
 * Strokes: moments at which something is struck, one drum or several, and what is heard of each. Which drums they are, the whole recording
 * says ({@link file://./kitNetwork.ts}).
 */
import { clamp, type Seconds } from '../../signal/index.ts';
import { HIT_KINDS } from '../../theory/index.ts';
import { READING_HZ } from '../melodySettings.ts';
import { RANGE_DB, scaledLevel } from './hitLevels.ts';
import { BANDS, HIT_HOP_SAMPLES, STEP_DB } from './melFrames.ts';

export interface Stroke {
  frame: number;
  /** How likely its likeliest drum is by what is heard at that moment, 0–1. */
  attack: number;
  /** When each kind of drum is struck, in the order of HIT_KINDS; that of the likeliest where a kind has no peak of its own. */
  seconds: Seconds[];
}

/** Below this a peak is none. */
export const MIN_PROBABILITY = 0.06;
/** A peak is the highest within so many frames on each side: 17 ms. */
const PEAK_FRAMES = 3;
/** Hits of one kind closer than this are one (a sixty-fourth at 120 bpm lasts 31 ms). */
const MIN_SECONDS = 0.03;
/** Peaks of several kinds closer than this are of one stroke. */
const TOGETHER_SECONDS = 0.025;
/** How likely a drum is at a stroke is its most within so many frames: 23 ms. */
const NEAR_FRAMES = 4;
/** Nothing is surer than this. */
const LEAST = 1e-4;

/** The stroke is at its loudest within so many frames: 23 ms. */
const LOUDEST_FRAMES = 4;
/** How it rings is heard so many frames later: 81, 174 and 348 ms. */
const LATER_FRAMES = [14, 30, 60];
/** Bands are looked at in pairs where the stroke is, in fours where it rings. */
const PAIR = 2;
const FOUR = 4;
/** Distances to the strokes beside one count up to this. */
const FAR_SECONDS = 1;
export const STROKE_INPUTS = HIT_KINDS.length + (2 * BANDS) / PAIR + (LATER_FRAMES.length * BANDS) / FOUR + 3;

interface Peak {
  kind: number;
  frame: number;
  seconds: Seconds;
  value: number;
}

/** @param probabilities frames × kinds, as hitProbabilities gives them @returns in order of time */
export function findStrokes(probabilities: Float32Array): Stroke[] {
  const peaks = HIT_KINDS.flatMap((_, kind) => peaksOf(probabilities, kind));
  const left = new Set(peaks.sort((a, b) => a.seconds - b.seconds));
  const strokes: Stroke[] = [];
  const likeliestFirst = peaks.map((_, i) => i).sort((a, b) => peaks[b].value - peaks[a].value);
  for (const index of likeliestFirst) {
    const top = peaks[index];
    if (!left.has(top)) continue;
    const seconds = HIT_KINDS.map(() => top.seconds);
    const taken = new Set<number>();
    for (const peak of beside(peaks, index).sort((a, b) => b.value - a.value)) {
      // A drum that is struck again at once is another stroke.
      if (taken.has(peak.kind) || !left.delete(peak)) continue;
      taken.add(peak.kind);
      seconds[peak.kind] = peak.seconds;
    }
    strokes.push({ frame: top.frame, attack: top.value, seconds });
  }
  return strokes.sort((a, b) => a.frame - b.frame);
}

/** Peaks around one of them, itself included; in order of time. */
function beside(peaks: readonly Peak[], index: number): Peak[] {
  const { seconds } = peaks[index];
  let [first, last] = [index, index];
  while (first > 0 && seconds - peaks[first - 1].seconds <= TOGETHER_SECONDS) first--;
  while (last + 1 < peaks.length && peaks[last + 1].seconds - seconds <= TOGETHER_SECONDS) last++;
  return peaks.slice(first, last + 1);
}

function peaksOf(probabilities: Float32Array, kind: number): Peak[] {
  const count = probabilities.length / HIT_KINDS.length;
  const at = (frame: number) =>
    frame < 0 || frame >= count ? 0 : probabilities[frame * HIT_KINDS.length + kind];
  const peaks: Peak[] = [];
  let last = -Infinity;
  for (let frame = 0; frame < count; frame++) {
    const value = at(frame);
    if (value < MIN_PROBABILITY) continue;
    let highest = true;
    for (let d = 1; d <= PEAK_FRAMES; d++)
      if (at(frame - d) >= value || at(frame + d) > value) highest = false;
    if (!highest) continue;
    const bend = at(frame - 1) - 2 * value + at(frame + 1);
    const shift = bend < 0 ? (0.5 * (at(frame - 1) - at(frame + 1))) / bend : 0;
    const seconds = Math.max(0, ((frame + clamp(shift, -0.5, 0.5)) * HIT_HOP_SAMPLES) / READING_HZ);
    if (seconds - last < MIN_SECONDS) continue;
    last = seconds;
    peaks.push({ kind, frame, seconds, value });
  }
  return peaks;
}

/**
 * What is known of each stroke by itself: how likely each drum is by what the networks said, levels of bands, how they rose and how they ring
 * on, and how far the strokes beside it are.
 * @param frames of createMelStream, the loudest of which reach `topDb`
 * @returns strokes × {@link STROKE_INPUTS}
 */
export function strokeInputs(
  frames: Uint8Array,
  topDb: number,
  probabilities: Float32Array,
  strokes: readonly Stroke[],
): Float32Array {
  const count = frames.length / BANDS;
  const inputs = new Float32Array(strokes.length * STROKE_INPUTS);
  const level = (frame: number, band: number) => frames[clamp(frame, 0, count - 1) * BANDS + band];
  const hop = HIT_HOP_SAMPLES / READING_HZ;
  const apart = (i: number, j: number) =>
    i < 0 || j >= strokes.length
      ? 1
      : Math.min(FAR_SECONDS, (strokes[j].frame - strokes[i].frame) * hop) / FAR_SECONDS;
  strokes.forEach(({ frame }, i) => {
    let to = i * STROKE_INPUTS;
    HIT_KINDS.forEach((_, kind) => {
      let most = 0;
      for (let t = Math.max(0, frame - NEAR_FRAMES); t <= Math.min(count - 1, frame + NEAR_FRAMES); t++)
        most = Math.max(most, probabilities[t * HIT_KINDS.length + kind]);
      inputs[to++] = Math.log((most + LEAST) / (1 - most + LEAST)) / 4;
    });
    const loudest = Array.from({ length: BANDS }, (_, band) => {
      let most = 0;
      for (let t = frame; t <= frame + LOUDEST_FRAMES; t++) most = Math.max(most, level(t, band));
      return most;
    });
    const before = Array.from({ length: BANDS }, (_, band) => level(frame - LOUDEST_FRAMES, band));
    for (let band = 0; band < BANDS; band += PAIR)
      inputs[to++] = scaledLevel(Math.max(loudest[band], loudest[band + 1]), topDb);
    for (let band = 0; band < BANDS; band += PAIR)
      inputs[to++] =
        ((loudest[band] + loudest[band + 1] - before[band] - before[band + 1]) / PAIR) * (STEP_DB / RANGE_DB);
    for (const later of LATER_FRAMES)
      for (let band = 0; band < BANDS; band += FOUR) {
        let fallen = 0;
        for (let b = band; b < band + FOUR; b++) fallen += loudest[b] - level(frame + later, b);
        inputs[to++] = (fallen / FOUR) * (STEP_DB / RANGE_DB);
      }
    inputs[to++] = scaledLevel(Math.max(...loudest), topDb);
    inputs[to++] = apart(i - 1, i);
    inputs[to++] = apart(i, i + 1);
  });
  return inputs;
}
