/** What happens to a voice before it is read: rooms, telephones, bleed, clipping, coarse coding. */
import { createRealTransform, createTransform, hannWindow, type Random } from '@plundra/core/signal';
import { midiToHz } from '@plundra/core/theory';
import { addNoise, addReverb } from './room.ts';

export type Roughness =
  | 'telephone band'
  | 'phone in a room'
  | 'guitar bleeding in'
  | 'clipped'
  | 'coarse codec in a hall'
  | 'fast'
  | 'growl';

export const ROUGHNESSES: Roughness[] = [
  'telephone band',
  'phone in a room',
  'guitar bleeding in',
  'clipped',
  'coarse codec in a hall',
  'fast',
  'growl',
];

/** The samples as a poor recording has them; without a roughness a little noise, and one in three has a room. */
export function roughen(
  samples: Float32Array,
  rateHz: number,
  roughness: Roughness | undefined,
  random: Random,
): Float32Array {
  const out = samples.slice();
  const wet = 0.5 + 0.5 * random();
  const decaySeconds = 0.5 + 1.2 * random();
  const noiseDb = 28 + 27 * random();
  switch (roughness) {
    case 'telephone band':
      bandPass(out, rateHz, 280 + 80 * random(), 3000 + 500 * random());
      addNoise(out, 24 + 16 * random(), random);
      break;
    case 'phone in a room':
      addReverb(out, rateHz, 0.3 + 0.3 * wet, decaySeconds * 0.6);
      bandPass(out, rateHz, 150 + 100 * random(), 5500 + 2500 * random());
      addNoise(out, 18 + 14 * random(), random);
      break;
    case 'guitar bleeding in':
      addGuitar(out, rateHz, 18 + 10 * random(), random);
      addNoise(out, noiseDb, random);
      break;
    case 'clipped': {
      const drive = 2 + 4 * random();
      for (let i = 0; i < out.length; i++) out[i] = Math.max(-0.5, Math.min(0.5, out[i] * drive));
      addNoise(out, noiseDb, random);
      break;
    }
    case 'coarse codec in a hall':
      addReverb(out, rateHz, 0.15 + 0.2 * wet, 1 + decaySeconds);
      return codeCoarsely(out, 12 + 8 * random());
    default:
      if (random() < 0.33) addReverb(out, rateHz, 0.3 * wet, decaySeconds);
      addNoise(out, noiseDb, random);
      if (random() < 0.15) addHum(out, rateHz, 30 + 20 * random(), random);
  }
  return out;
}

/** Butterworth of second order on each side, each twice. */
function bandPass(samples: Float32Array, rateHz: number, lowHz: number, highHz: number): void {
  for (let round = 0; round < 2; round++) {
    biquad(samples, rateHz, lowHz, 'high');
    biquad(samples, rateHz, highHz, 'low');
  }
}

/** Second-order filters after R. Bristow-Johnson's cookbook, Q = 0.707. */
function biquad(samples: Float32Array, rateHz: number, cutHz: number, kind: 'low' | 'high'): void {
  const w = (2 * Math.PI * cutHz) / rateHz;
  const alpha = Math.sin(w) / Math.SQRT2;
  const cos = Math.cos(w);
  const b1 = kind === 'low' ? 1 - cos : -(1 + cos);
  const b0 = Math.abs(b1) / 2;
  const a0 = 1 + alpha;
  let [x1, x2, y1, y2] = [0, 0, 0, 0];
  for (let i = 0; i < samples.length; i++) {
    const x = samples[i];
    const y = (b0 * x + b1 * x1 + b0 * x2 + 2 * cos * y1 - (1 - alpha) * y2) / a0;
    [x2, x1, y2, y1] = [x1, x, y1, y];
    samples[i] = y;
  }
}

function power(samples: Float32Array): number {
  let sum = 0;
  for (const value of samples) sum += value * value;
  return Math.sqrt(sum / samples.length);
}

/** Strummed chords of plucked strings (Karplus & Strong 1983) `belowDb` beneath the voice. */
function addGuitar(samples: Float32Array, rateHz: number, belowDb: number, random: Random): void {
  const guitar = new Float32Array(samples.length);
  const root = 40 + Math.floor(12 * random());
  for (let at = 0; at < samples.length; at += Math.round(rateHz * (0.5 + 0.5 * random()))) {
    const base = root + [0, 5, 7, 9][Math.floor(4 * random())];
    [0, 7, 12, 16, 19].forEach((step, string) => {
      const period = Math.round(rateHz / midiToHz(base + step));
      const line = Float32Array.from({ length: period }, () => random() * 2 - 1);
      const from = at + Math.round(string * 0.012 * rateHz);
      for (let i = 0; from + i < samples.length && i < rateHz * 1.5; i++) {
        const k = i % period;
        guitar[from + i] += line[k] * 0.3;
        line[k] = 0.996 * 0.5 * (line[k] + line[(k + 1) % period]);
      }
    });
  }
  const gain = (power(samples) / (power(guitar) + 1e-9)) * 10 ** (-belowDb / 20);
  for (let i = 0; i < samples.length; i++) samples[i] += gain * guitar[i];
}

function addHum(samples: Float32Array, rateHz: number, belowDb: number, random: Random): void {
  const gain = power(samples) * 10 ** (-belowDb / 20);
  const hz = random() < 0.5 ? 50 : 60;
  for (let i = 0; i < samples.length; i++)
    for (const k of [1, 2, 3, 5]) samples[i] += (gain / k) * Math.sin((2 * Math.PI * hz * k * i) / rateHz);
}

const CODEC_SIZE = 512;

/** Bins more than `belowDb` under the loudest of their frame fall away or are rounded: what a low bit rate does. */
function codeCoarsely(samples: Float32Array, belowDb: number): Float32Array {
  const transform = createTransform(CODEC_SIZE);
  const real = createRealTransform(CODEC_SIZE);
  const window = hannWindow(CODEC_SIZE);
  const out = new Float32Array(samples.length);
  const frame = new Float32Array(CODEC_SIZE);
  const spectrum = transform.createComplex();
  const back = transform.createComplex();
  const half = CODEC_SIZE / 2;
  for (let from = -half; from < samples.length; from += half) {
    for (let i = 0; i < CODEC_SIZE; i++) frame[i] = (samples[from + i] ?? 0) * Math.sqrt(window[i]);
    const bins = real.forward(frame);
    spectrum.fill(0);
    for (let band = 1; band < half; band += 16) {
      let loudest = 0;
      for (let k = band; k < Math.min(half, band + 16); k++)
        loudest = Math.max(loudest, Math.hypot(bins[2 * k], bins[2 * k + 1]));
      const step = loudest * 10 ** (-belowDb / 20) + 1e-9;
      // The top of the band is given up.
      if (band > half * 0.7) continue;
      for (let k = band; k < Math.min(half, band + 16); k++)
        for (let part = 0; part < 2; part++) {
          const value = Math.round(bins[2 * k + part] / step) * step;
          spectrum[2 * k + part] = value;
          spectrum[2 * (CODEC_SIZE - k) + part] = part === 0 ? value : -value;
        }
    }
    transform.inverse(back, spectrum);
    for (let i = 0; i < CODEC_SIZE; i++)
      if (from + i >= 0 && from + i < out.length) out[from + i] += back[2 * i] * Math.sqrt(window[i]);
  }
  return out;
}
