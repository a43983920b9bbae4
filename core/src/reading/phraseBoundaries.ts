/** Where phrases end: places at which several takes of the same stretch are quiet together. */
import type { Seconds } from '../signal/index.ts';

/** Levels of several takes over the same stretch, one value a step. */
export interface TakeLevels {
  stepSeconds: Seconds;
  /** Of each take, 0–1, equally many. */
  levels: readonly Float32Array[];
}

const SMOOTH_SECONDS = 0.08;
/** Below this share of what is loud in a take it is quiet: −26 dB. */
const QUIET_SHARE = 0.05;
const LOUD_QUANTILE = 0.95;
const LEAST_REST_SECONDS = 0.15;
const SHORTEST_PHRASE_SECONDS = 1.2;

/**
 * Where all takes are quiet together, in seconds from the start of the stretch: the quietest moment of each rest that is
 * long enough. Phrases between them last at least {@link SHORTEST_PHRASE_SECONDS}; of rests that are too near to each other the
 * longer counts.
 */
export function phraseBoundaries({ stepSeconds, levels }: TakeLevels): Seconds[] {
  const length = Math.min(...levels.map((level) => level.length));
  if (!Number.isFinite(length) || length === 0) return [];
  const together = new Float32Array(length);
  for (const level of levels) {
    const loud = [...level].sort((a, b) => a - b)[Math.floor(LOUD_QUANTILE * (level.length - 1))];
    if (loud <= 0) continue;
    for (let i = 0; i < length; i++) together[i] = Math.max(together[i], level[i] / loud);
  }
  const smooth = smoothed(together, Math.max(1, Math.round(SMOOTH_SECONDS / stepSeconds)));
  const rests: { at: number; steps: number }[] = [];
  for (let i = 0; i < length; i++) {
    if (smooth[i] >= QUIET_SHARE) continue;
    const start = i;
    let quietest = i;
    for (; i < length && smooth[i] < QUIET_SHARE; i++) if (smooth[i] < smooth[quietest]) quietest = i;
    // Silence at either end parts nothing.
    if (start > 0 && i < length && (i - start) * stepSeconds >= LEAST_REST_SECONDS)
      rests.push({ at: middleOfQuietest(smooth, quietest, i), steps: i - start });
  }
  const kept: number[] = [0, length];
  for (const { at } of rests.sort((a, b) => b.steps - a.steps))
    if (kept.every((other) => Math.abs(other - at) * stepSeconds >= SHORTEST_PHRASE_SECONDS)) kept.push(at);
  return kept
    .filter((at) => at > 0 && at < length)
    .sort((a, b) => a - b)
    .map((at) => at * stepSeconds);
}

/** Where it is equally quiet for a while: its middle. */
function middleOfQuietest(levels: Float32Array, quietest: number, end: number): number {
  let last = quietest;
  while (last + 1 < end && levels[last + 1] <= levels[quietest] + 1e-6) last++;
  return Math.round((quietest + last) / 2);
}

function smoothed(values: Float32Array, width: number): Float32Array {
  const half = width >> 1;
  const out = new Float32Array(values.length);
  for (let i = 0; i < values.length; i++) {
    let most = 0;
    for (let k = Math.max(0, i - half); k <= Math.min(values.length - 1, i + half); k++)
      most = Math.max(most, values[k]);
    out[i] = most;
  }
  return out;
}
