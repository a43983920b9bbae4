/** What a room and a recorder add: reverberation and noise. */
import { gaussian, type Random } from '@plundra/core/signal';

/**
 * Reverberation by four damped feedback delays (Jot & Chaigne 1991). `wet` 0–1 relative to the direct sound,
 * `decaySeconds`: time to −60 dB.
 */
export function addReverb(
  samples: Float32Array,
  sampleRateHz: number,
  wet: number,
  decaySeconds: number,
): void {
  const delays = [0.0297, 0.0371, 0.0411, 0.0437].map((s) => new Float32Array(Math.round(s * sampleRateHz)));
  const gains = delays.map((line) => 10 ** ((-3 * line.length) / sampleRateHz / decaySeconds));
  const positions = [0, 0, 0, 0];
  const damped = [0, 0, 0, 0];
  for (let i = 0; i < samples.length; i++) {
    const dry = samples[i];
    const outs = delays.map((line, k) => line[positions[k]]);
    const mean = (outs[0] + outs[1] + outs[2] + outs[3]) / 2;
    for (let k = 0; k < 4; k++) {
      damped[k] += 0.7 * ((outs[k] - mean) * gains[k] - damped[k]);
      delays[k][positions[k]] = dry + damped[k];
      positions[k] = (positions[k] + 1) % delays[k].length;
    }
    samples[i] = dry + wet * 0.5 * (outs[0] - outs[1] + outs[2] - outs[3]);
  }
}

/** Adds white noise `snrDb` below the root mean square of the signal. */
export function addNoise(samples: Float32Array, snrDb: number, random: Random): void {
  let energy = 0;
  for (const value of samples) energy += value * value;
  const level = Math.sqrt(energy / samples.length) * 10 ** (-snrDb / 20);
  for (let i = 0; i < samples.length; i++) samples[i] += gaussian(random) * level;
}
