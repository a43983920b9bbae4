/** Reads all notes of a chordal recording: activations of every key first, notes from these. */
import { createResampler, finiteSamples, type Hertz } from '../../signal/index.ts';
import { GrowingFloats } from '../growing.ts';
import { READING_HZ } from '../melodySettings.ts';
import { computeActivations, type Activations } from './activations.ts';

/** Changes whenever the same recording could read differently; part of the key of cached readings. */
export const CHORDAL_ALGORITHM_VERSION = 8;

export interface ChordalReader {
  /** Adds mono samples at the rate given; values that are not finite count as silence. */
  push(samples: Float32Array): void;
  /** Computes the activations; `onProgress` is told the share that is done. */
  finish(onProgress?: (share: number) => void): Activations;
}

export function createChordalReader(sampleRateHz: Hertz): ChordalReader {
  const resampler = createResampler(sampleRateHz, READING_HZ);
  const held = new GrowingFloats();
  const add = (samples: Float32Array) => {
    const at = held.length;
    held.extend(samples.length).set(samples, at);
  };
  return {
    push(samples) {
      add(resampler.push(finiteSamples(samples)));
    },
    finish(onProgress) {
      add(resampler.finish());
      return computeActivations(held.values(), { onProgress });
    },
  };
}
