/** What the pitch of a note is made of: its centre, slow drift and vibrato. */
import { median, type Midi, type Seconds } from '../signal/index.ts';

export interface PitchPoint {
  seconds: Seconds;
  midi: Midi;
}

/** One entry a point: deviation from the centre in semitones, split into slow and fast; `weight` 0–1: see below. */
export interface PitchShape {
  drift: Float64Array;
  vibrato: Float64Array;
  /** 0 in the scoop or slide at either end, which is left as it was sung, 1 in the body of the note. */
  weight: Float64Array;
}

/** Half the window of the slow movement; the whole holds more than one cycle of a slow (4.5 Hz) vibrato. */
const DRIFT_HALF_SECONDS = 0.16;
/** What lies no further than this from a note, but for octaves, is of that note. */
const SAME_PITCH_SEMITONES = 2;
/** A start or end further off than this is a scoop or slide. */
const SCOOP_SEMITONES = 0.5;
/** A scoop lasts no longer than this; what is still off then is drift. */
const LONGEST_SCOOP_SECONDS = 0.16;
/** Over this time the correction sets in after a scoop. */
const RAMP_SECONDS = 0.03;

/**
 * Semitones by which what was measured of a note lies in another octave than the note: it was moved by octaves since, because they were
 * read wrong.
 */
export function octavesOff(points: readonly Pick<PitchPoint, 'midi'>[], centre: Midi): number {
  if (points.length === 0) return 0;
  const off = median(points.map(({ midi }) => midi)) - centre;
  const octaves = 12 * Math.round(off / 12);
  return Math.abs(off - octaves) < SAME_PITCH_SEMITONES ? octaves : 0;
}

/** Splits the pitch of one note around its centre, in whichever octave it was measured. Points ascend in time. */
export function splitPitch(points: readonly PitchPoint[], named: Midi): PitchShape {
  const centre = named + octavesOff(points, named);
  const count = points.length;
  const drift = new Float64Array(count);
  const vibrato = new Float64Array(count);
  const weight = scoopWeights(points, centre);
  let low = 0;
  for (let k = 0; k < count; k++) {
    while (points[low].seconds < points[k].seconds - DRIFT_HALF_SECONDS) low++;
    drift[k] = weight[k] > 0 ? localLine(points, weight, low, k, centre) : points[k].midi - centre;
    vibrato[k] = points[k].midi - centre - drift[k];
  }
  return { drift, vibrato, weight };
}

/**
 * Value at point `k` of a straight line fitted to its neighbourhood with a Hann window (local regression, Cleveland
 * 1979): unlike a mean it is not drawn aside at the ends of a note. Scoops do not take part.
 */
function localLine(
  points: readonly PitchPoint[],
  weight: Float64Array,
  low: number,
  k: number,
  centre: Midi,
): number {
  let [sum, sumX, sumXx, sumY, sumXy] = [0, 0, 0, 0, 0];
  const at = points[k].seconds;
  for (let i = low; i < points.length; i++) {
    const x = points[i].seconds - at;
    if (x > DRIFT_HALF_SECONDS) break;
    if (weight[i] === 0) continue;
    const w = 0.5 + 0.5 * Math.cos((Math.PI * x) / DRIFT_HALF_SECONDS);
    const y = points[i].midi - centre;
    sum += w;
    sumX += w * x;
    sumXx += w * x * x;
    sumY += w * y;
    sumXy += w * x * y;
  }
  const spread = sum * sumXx - sumX * sumX;
  if (sum === 0) return 0;
  // Where the window is cut off the slope follows half a cycle of vibrato; less of it is believed there.
  const trust = Math.min(1, spread / (sum * sum) / (DRIFT_HALF_SECONDS ** 2 * 0.1));
  const slope = spread > 1e-12 ? (trust * (sum * sumXy - sumX * sumY)) / spread : 0;
  return (sumY - slope * sumX) / sum;
}

function scoopWeights(points: readonly PitchPoint[], centre: Midi): Float64Array {
  const count = points.length;
  const weight = new Float64Array(count).fill(1);
  if (count === 0) return weight;
  const first = points[0].seconds;
  const last = points[count - 1].seconds;
  const longest = Math.min(LONGEST_SCOOP_SECONDS, (last - first) * 0.4);
  const off = (k: number) => Math.abs(points[k].midi - centre) > SCOOP_SEMITONES;
  let from = first;
  for (let k = 0; k < count && points[k].seconds - first <= longest && off(k); k++) from = points[k].seconds;
  let to = last;
  for (let k = count - 1; k >= 0 && last - points[k].seconds <= longest && off(k); k--)
    to = points[k].seconds;
  for (let k = 0; k < count; k++) {
    const inside = Math.min(
      off(0) ? (points[k].seconds - from) / RAMP_SECONDS : 1,
      off(count - 1) ? (to - points[k].seconds) / RAMP_SECONDS : 1,
    );
    weight[k] = Math.max(0, Math.min(1, inside));
  }
  return weight;
}
