/** Levels of bands as the networks of hits take them. */
import { clamp, quantile } from '../../signal/index.ts';
import { BANDS, FLOOR_DB, STEP_DB } from './melFrames.ts';

/** Levels are scaled to 0–1 over this range, and reach a little above it. */
export const RANGE_DB = 70;
const MOST = 1.15;
/** Share of the frames that are softer than what counts as loudest, and as loud in a band. */
const TOP_QUANTILE = 0.99;
const BAND_QUANTILE = 0.97;

/** A stored level beside one in dB that counts as 1. */
export function scaledLevel(step: number, oneDb: number): number {
  return clamp(1 + (FLOOR_DB + STEP_DB * step - oneDb) / RANGE_DB, 0, MOST);
}

/** What the loudest band of the loudest frames reaches. */
export function loudestDb(frames: Uint8Array): number {
  const count = frames.length / BANDS;
  if (count === 0) return -Infinity;
  const maxima = new Float32Array(count);
  for (let frame = 0; frame < count; frame++)
    for (let i = frame * BANDS; i < (frame + 1) * BANDS; i++)
      if (frames[i] > maxima[frame]) maxima[frame] = frames[i];
  return FLOOR_DB + STEP_DB * quantile(maxima, TOP_QUANTILE);
}

/** The same of each band. */
export function loudOfBandsDb(frames: Uint8Array): number[] {
  const levels = new Float32Array(frames.length / BANDS);
  return Array.from({ length: BANDS }, (_, band) => {
    for (let t = 0; t < levels.length; t++) levels[t] = frames[t * BANDS + band];
    return FLOOR_DB + STEP_DB * quantile(levels, BAND_QUANTILE);
  });
}
