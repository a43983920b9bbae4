/**
 * Front end of the hit reader: the power in 48 bands, evenly on the mel scale (O'Shaughnessy 1987), every 5.8 ms.
 * In step with training/drums.py; a test compares both.
 */
import { createRealTransform } from '../../signal/index.ts';
import { READING_HZ } from '../melodySettings.ts';

export const BANDS = 48;
export const HIT_HOP_SAMPLES = 128;
/** Values are stored in steps of half a decibel above this. */
export const FLOOR_DB = -110;
export const STEP_DB = 0.5;
const WINDOW = 1024;
const LOWEST_HZ = 30;
const HIGHEST_HZ = 10500;

export interface MelStream {
  /** Adds mono samples at 22,050 Hz. */
  push(samples: Float32Array): void;
  /** Frames × {@link BANDS} in {@link STEP_DB} above {@link FLOOR_DB}; frame t is centred on sample 128·t. */
  finish(): Uint8Array;
}

export function createMelStream(): MelStream {
  const transform = createRealTransform(WINDOW);
  const window = Float64Array.from(
    { length: WINDOW },
    (_, i) => (1 - Math.cos((2 * Math.PI * i) / WINDOW)) / WINDOW,
  );
  const bands = triangles();
  const frame = new Float64Array(WINDOW);
  let held = new Float32Array(WINDOW / 2);
  let received = 0;
  let count = 0;
  let stored = new Uint8Array(BANDS * 1024);

  const writeFrame = (samples: Float32Array, at: number) => {
    for (let i = 0; i < WINDOW; i++) frame[i] = samples[at + i] * window[i];
    const spectrum = transform.forward(frame);
    if ((count + 1) * BANDS > stored.length) {
      const grown = new Uint8Array(stored.length * 2);
      grown.set(stored);
      stored = grown;
    }
    for (let band = 0; band < BANDS; band++) {
      const { first, weights } = bands[band];
      let power = 0;
      for (let i = 0; i < weights.length; i++) {
        const bin = 2 * (first + i);
        power += weights[i] * (spectrum[bin] * spectrum[bin] + spectrum[bin + 1] * spectrum[bin + 1]);
      }
      const steps = Math.round((10 * Math.log10(power + 1e-12) - FLOOR_DB) / STEP_DB);
      stored[count * BANDS + band] = Math.min(255, Math.max(0, steps));
    }
    count++;
  };
  const append = (samples: Float32Array) => {
    const joined = new Float32Array(held.length + samples.length);
    joined.set(held);
    joined.set(samples, held.length);
    let at = 0;
    for (; at + WINDOW <= joined.length; at += HIT_HOP_SAMPLES) writeFrame(joined, at);
    held = joined.slice(at);
  };
  return {
    push(samples) {
      received += samples.length;
      append(samples);
    },
    finish() {
      append(new Float32Array(WINDOW));
      const wanted = received === 0 ? 0 : Math.floor(received / HIT_HOP_SAMPLES) + 1;
      return stored.slice(0, Math.min(count, wanted) * BANDS);
    },
  };
}

/** Bands over the bins 0…511; each is at least two bins wide. */
function triangles(): { first: number; weights: Float64Array }[] {
  const mel = (hz: number) => 2595 * Math.log10(1 + hz / 700);
  const low = mel(LOWEST_HZ);
  const step = (mel(HIGHEST_HZ) - low) / (BANDS + 1);
  const edges: number[] = [];
  for (let i = 0; i < BANDS + 2; i++) {
    const hz = 700 * (10 ** ((low + step * i) / 2595) - 1);
    const bin = (hz * WINDOW) / READING_HZ;
    edges.push(i === 0 ? bin : Math.max(bin, edges[i - 1] + 1));
  }
  return Array.from({ length: BANDS }, (_, band) => {
    const [from, top, to] = edges.slice(band, band + 3);
    const first = Math.max(0, Math.ceil(from));
    const last = Math.min(WINDOW / 2 - 1, Math.floor(to));
    const weights = Float64Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => {
      const bin = first + i;
      return Math.max(0, Math.min((bin - from) / (top - from), (to - bin) / (to - top)));
    });
    return { first, weights };
  });
}
