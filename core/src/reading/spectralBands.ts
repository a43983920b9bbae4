/** Loudness of a frame in wide bands: what tells a murmur, a hiss and a vowel apart. */
import { READING_HZ } from './melodySettings.ts';

/** Edges in Hz: about three bands an octave where the first formants lie, wider above. */
const EDGES_HZ = [80, 200, 350, 550, 850, 1300, 2000, 3000, 4500, 6500, 10500];
export const BAND_COUNT = EDGES_HZ.length - 1;
const FLOOR = 1e-12;

/**
 * Writes the level of each band in dB below full scale at `offset`. `amplitude`: magnitudes of a Hann-windowed frame of `size`
 * samples, `size` / 2 bins.
 */
export function writeBandLevels(
  amplitude: Float32Array,
  size: number,
  out: Float32Array,
  offset: number,
): void {
  // Power of a sine of amplitude 1 under this window is that of its three bins together.
  const scale = 32 / (3 * size * size);
  for (let b = 0; b < BAND_COUNT; b++) {
    const to = Math.min(amplitude.length, Math.round((EDGES_HZ[b + 1] * size) / READING_HZ));
    let power = 0;
    for (let bin = Math.round((EDGES_HZ[b] * size) / READING_HZ); bin < to; bin++)
      power += amplitude[bin] ** 2;
    out[offset + b] = 10 * Math.log10(power * scale + FLOOR);
  }
}
