/**
 * Pitch marks: one position for each period of a single line, found by correlation from period to period along the
 * contour of the reading, and regular ones where nothing is voiced. They are the joints at which a recording can be
 * taken apart and put together at another pitch or length (Moulines & Charpentier 1990).
 */
import type { Contour } from '../reading/index.ts';

export interface PitchMarks {
  /** Ascending positions in samples, with fractions. */
  positions: Float64Array;
  /** 1 where the mark stands for a period of a voiced sound. */
  voiced: Uint8Array;
  /** Smoothed local period in samples (for unvoiced marks their distance). */
  periods: Float64Array;
}

/** Distance of marks where nothing is voiced. */
const UNVOICED_SECONDS = 0.005;
/** A period may differ from the contour's by this factor either way. */
const SEARCH = 0.16;
/** Correlated stretch around a mark, in periods. */
const WINDOW_PERIODS = 1.4;
/** Below this correlation the contour's period is taken. */
const MIN_CORRELATION = 0.35;
/** Holes in the contour up to this many frames are bridged. */
const BRIDGED_FRAMES = 3;

export interface PitchMarker {
  /** Marks from one sample to another; whole voiced stretches, so that the same sound always has the same marks. */
  between(fromSample: number, toSample: number): PitchMarks;
}

/** Marks of a mono signal, made where they are asked for; the contour's frame i lies at i · hopSeconds. */
export function createPitchMarker(mono: Float32Array, sampleRateHz: number, contour: Contour): PitchMarker {
  const hop = contour.hopSeconds * sampleRateHz;
  const step = UNVOICED_SECONDS * sampleRateHz;
  const stretches = voicedStretches(contour.f0Hz).map(({ first, last }) => ({
    first,
    last,
    from: Math.max(0, (first - 0.5) * hop),
    to: Math.min(mono.length - 1, (last + 0.5) * hop),
    marks: undefined as number[] | undefined,
  }));
  return {
    between(fromSample, toSample) {
      const inside = stretches.filter(({ from, to }) => to >= fromSample && from <= toSample);
      const positions: number[] = [];
      const voiced: number[] = [];
      const begin = Math.min(fromSample, inside[0]?.from ?? fromSample) - step;
      const fillUnvoiced = (to: number) => {
        const from = positions.length > 0 ? positions[positions.length - 1] : begin;
        const count = Math.round((to - from) / step);
        for (let i = 1; i < count; i++) {
          positions.push(from + ((to - from) * i) / count);
          voiced.push(0);
        }
      };
      for (const stretch of inside) {
        const { first, last, from, to } = stretch;
        stretch.marks ??= marksOfStretch(
          mono,
          from,
          to,
          interpolatedPeriod(contour.f0Hz, first, last, hop, sampleRateHz),
        );
        if (stretch.marks.length < 3) continue;
        fillUnvoiced(stretch.marks[0]);
        for (const mark of stretch.marks) {
          if (positions.length > 0 && mark <= positions[positions.length - 1] + 2) continue;
          positions.push(mark);
          voiced.push(1);
        }
      }
      fillUnvoiced(Math.max(toSample, positions[positions.length - 1] ?? 0) + 2 * step);
      return {
        positions: Float64Array.from(positions),
        voiced: Uint8Array.from(voiced),
        periods: smoothPeriods(positions, voiced),
      };
    },
  };
}

function voicedStretches(f0Hz: Float32Array): { first: number; last: number }[] {
  const stretches: { first: number; last: number }[] = [];
  for (let t = 0; t < f0Hz.length; t++) {
    if (f0Hz[t] <= 0) continue;
    const open = stretches[stretches.length - 1];
    if (open && t - open.last <= BRIDGED_FRAMES + 1) open.last = t;
    else stretches.push({ first: t, last: t });
  }
  return stretches.filter(({ first, last }) => last - first >= 2);
}

function interpolatedPeriod(f0Hz: Float32Array, first: number, last: number, hop: number, rate: number) {
  const logs = new Float64Array(last - first + 1);
  let before = first;
  for (let t = first; t <= last; t++) {
    if (f0Hz[t] <= 0) continue;
    logs[t - first] = Math.log(f0Hz[t]);
    for (let gap = before + 1; gap < t; gap++) {
      const share = (gap - before) / (t - before);
      logs[gap - first] = logs[before - first] * (1 - share) + logs[t - first] * share;
    }
    before = t;
  }
  return (position: number): number => {
    const place = Math.min(last - first, Math.max(0, position / hop - first));
    const low = Math.min(logs.length - 2, Math.floor(place));
    return rate / Math.exp(logs[low] + (logs[low + 1] - logs[low]) * (place - low));
  };
}

function marksOfStretch(
  mono: Float32Array,
  from: number,
  to: number,
  periodAt: (position: number) => number,
): number[] {
  const seed = loudestPeak(mono, Math.round(from), Math.round(to), periodAt);
  const right: number[] = [];
  for (let at = seed; ;) {
    const next = at + nextDistance(mono, at, periodAt(at), 1);
    if (next > to) break;
    right.push(next);
    at = next;
  }
  const left: number[] = [];
  for (let at = seed; ;) {
    const next = at - nextDistance(mono, at, periodAt(at), -1);
    if (next < from) break;
    left.push(next);
    at = next;
  }
  return [...left.reverse(), seed, ...right];
}

/** The largest swing within a period of the loudest place. */
function loudestPeak(
  mono: Float32Array,
  from: number,
  to: number,
  periodAt: (position: number) => number,
): number {
  let best = from;
  let most = -1;
  const block = 256;
  for (let at = from; at < to; at += block) {
    let sum = 0;
    for (let i = at; i < Math.min(to, at + block); i++) sum += mono[i] * mono[i];
    if (sum > most) {
      most = sum;
      best = at;
    }
  }
  const half = Math.ceil(periodAt(best) / 2);
  let peak = best;
  for (let i = Math.max(from, best - half); i <= Math.min(to, best + half); i++)
    if (Math.abs(mono[i]) > Math.abs(mono[peak])) peak = i;
  return peak;
}

/** Distance to the most alike place about one period away, in samples with a fraction. */
function nextDistance(mono: Float32Array, position: number, period: number, direction: 1 | -1): number {
  const half = Math.round((period * WINDOW_PERIODS) / 2);
  const centre = Math.round(position);
  const shortest = Math.max(2, Math.floor(period * (1 - SEARCH)));
  const longest = Math.ceil(period * (1 + SEARCH));
  const start = centre - half;
  if (start - longest - 2 < 0 || centre + half + longest + 2 >= mono.length) return period;
  const count = 2 * half + 1;
  // Energies of all shifted windows from one running sum.
  const lowest = direction > 0 ? start + shortest - 2 : start - longest - 2;
  const energies = runningEnergies(mono, lowest, count + longest - shortest + 4);
  let own = 0;
  for (let i = 0; i < count; i++) own += mono[start + i] * mono[start + i];
  if (own === 0) return period;
  const correlation = (lag: number, stride: number): number => {
    const other = start + direction * lag;
    let cross = 0;
    for (let i = 0; i < count; i += stride) cross += mono[start + i] * mono[other + i];
    const energy = energies[other - lowest + count] - energies[other - lowest];
    return energy > 0 ? (cross * stride) / Math.sqrt(own * energy) : 0;
  };
  // Coarse first: correlation is smooth over a tenth of a period.
  const step = Math.max(1, Math.floor(period / 48));
  let best = Math.round(period);
  let highest = -Infinity;
  for (let lag = shortest; lag <= longest; lag += step) {
    const value = correlation(lag, step > 2 ? 2 : 1);
    if (value > highest) {
      highest = value;
      best = lag;
    }
  }
  highest = correlation(best, 1);
  if (step > 1) {
    const middle = best;
    for (let lag = middle - step + 1; lag < middle + step; lag++) {
      if (lag === middle) continue;
      const value = correlation(lag, 1);
      if (value > highest) {
        highest = value;
        best = lag;
      }
    }
  }
  if (highest < MIN_CORRELATION) return period;
  const before = correlation(best - 1, 1);
  const after = correlation(best + 1, 1);
  const curvature = before - 2 * highest + after;
  const fraction = curvature < 0 ? (0.5 * (before - after)) / curvature : 0;
  return best + Math.max(-0.5, Math.min(0.5, fraction));
}

let sums = new Float64Array(4096);

/** Sums of squares up to each sample from `from` on; entry i holds those of i samples. The array is reused. */
function runningEnergies(mono: Float32Array, from: number, count: number): Float64Array {
  if (sums.length <= count) sums = new Float64Array(2 * count);
  sums[0] = 0;
  for (let i = 0; i < count; i++) sums[i + 1] = sums[i] + mono[from + i] * mono[from + i];
  return sums;
}

/** Mean of the distances to both neighbours, weighted 1-2-1 over periods of the same voiced stretch. */
function smoothPeriods(positions: number[], voiced: number[]): Float64Array {
  const count = positions.length;
  const raw = new Float64Array(count);
  for (let k = 0; k < count; k++) {
    const right = k + 1 < count && (voiced[k + 1] === voiced[k] || k === 0);
    const left = k > 0 && voiced[k - 1] === voiced[k];
    if (right && left) raw[k] = (positions[k + 1] - positions[k - 1]) / 2;
    else if (right) raw[k] = positions[k + 1] - positions[k];
    else if (k > 0) raw[k] = positions[k] - positions[k - 1];
    else raw[k] = 1;
  }
  const smooth = Float64Array.from(raw);
  for (let k = 1; k + 1 < count; k++) {
    if (voiced[k - 1] && voiced[k] && voiced[k + 1]) smooth[k] = (raw[k - 1] + 2 * raw[k] + raw[k + 1]) / 4;
  }
  return smooth;
}
