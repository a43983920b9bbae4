/** How much later a known sound came back: the delay of a loop through output, cable and input. */
import { createTransform, nextPowerOfTwo } from './fft.ts';

export interface Delay {
  /** Fractional samples. */
  samples: number;
  /** 0 nothing alike – 1 the same sound. */
  likeness: number;
}

/**
 * Lag at which `recorded` is most like `sent` (normalised cross-correlation by FFT, peak by a parabola), from 0 to
 * `longestSamples`. A cable that turns the sign of the sound changes nothing.
 */
export function delayOf(sent: Float32Array, recorded: Float32Array, longestSamples: number): Delay {
  const size = nextPowerOfTwo(Math.max(sent.length, recorded.length) + longestSamples);
  const transform = createTransform(size);
  const spectrum = (samples: Float32Array): number[] => {
    const input = transform.createComplex();
    input.fill(0);
    samples.forEach((value, i) => (input[2 * i] = value));
    const out = transform.createComplex();
    transform.forward(out, input);
    return out;
  };
  const [a, b] = [spectrum(sent), spectrum(recorded)];
  const product = transform.createComplex();
  for (let k = 0; k < 2 * size; k += 2) {
    product[k] = a[k] * b[k] + a[k + 1] * b[k + 1];
    product[k + 1] = a[k] * b[k + 1] - a[k + 1] * b[k];
  }
  const correlation = transform.createComplex();
  transform.inverse(correlation, product);
  const at = (lag: number) => Math.abs(correlation[2 * ((lag + size) % size)]);
  let best = 0;
  for (let lag = 1; lag <= longestSamples; lag++) if (at(lag) > at(best)) best = lag;
  const energy = (samples: Float32Array, from = 0, to = samples.length) => {
    let sum = 0;
    for (let i = Math.max(0, from); i < Math.min(samples.length, to); i++) sum += samples[i] * samples[i];
    return sum;
  };
  const scale = Math.sqrt(energy(sent) * energy(recorded, best, best + sent.length));
  const [before, middle, after] = [at(best - 1), at(best), at(best + 1)];
  const bend = before - 2 * middle + after;
  return {
    samples: best > 0 && bend < 0 ? best + (0.5 * (before - after)) / bend : best,
    likeness: scale > 0 ? Math.min(1, middle / scale) : 0,
  };
}
