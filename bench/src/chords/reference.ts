/** A reference library (npm essentia.js, AGPL: bench only, never shipped) on the same clips: key, triads, beats. */
import { createRequire } from 'node:module';
import { parseChord } from '@plundra/core/theory';
import { resample } from '@plundra/core/signal';
import type { ChordSegment } from './scores.ts';

/** The parts of the library that are called here. */
interface Vector {
  push_back(value: unknown): void;
  size(): number;
  get(index: number): string;
  delete(): void;
}
interface Essentia {
  arrayToVector(values: Float32Array): Vector;
  vectorToArray(vector: Vector): Float32Array;
  module: { VectorVectorFloat: new () => Vector };
  Windowing(frame: Vector, normalized: boolean, size: number, type: string): { frame: Vector };
  Spectrum(frame: Vector, size: number): { spectrum: Vector };
  SpectralPeaks(
    spectrum: Vector,
    threshold: number,
    maxFrequency: number,
    maxPeaks: number,
    minFrequency: number,
    orderBy: string,
    sampleRate: number,
  ): { frequencies: Vector; magnitudes: Vector };
  HPCP(frequencies: Vector, magnitudes: Vector): { hpcp: Vector };
  ChordsDetection(pcp: Vector, hop: number, rate: number, windowSeconds: number): { chords: Vector };
  KeyExtractor(audio: Vector): { key: string; scale: string };
  RhythmExtractor2013(signal: Vector): { ticks: Vector; bpm: number };
}

export interface ReferenceChords {
  tonic: string;
  mode: string;
  chords: ChordSegment[];
  beats: number[];
}

const RATE = 44100;
const FRAME = 4096;
const HOP = 2048;
const WINDOW_SECONDS = 2;
const require = createRequire(import.meta.url);

export function loadChordReference(): (samples: Float32Array, sampleRateHz: number) => ReferenceChords {
  const library = require('essentia.js') as {
    Essentia: new (wasm: unknown) => Essentia;
    EssentiaWASM: unknown;
  };
  const essentia = new library.Essentia(library.EssentiaWASM);
  return (samples, sampleRateHz) => {
    const sound = resample(samples, sampleRateHz, RATE);
    const signal = essentia.arrayToVector(sound);
    const { key, scale } = essentia.KeyExtractor(signal);
    const beats = Array.from(essentia.vectorToArray(essentia.RhythmExtractor2013(signal).ticks));
    const profiles = new essentia.module.VectorVectorFloat();
    for (let at = 0; at + FRAME <= sound.length; at += HOP) {
      const frame = essentia.arrayToVector(sound.slice(at, at + FRAME));
      const windowed = essentia.Windowing(frame, true, FRAME, 'blackmanharris62').frame;
      const { spectrum } = essentia.Spectrum(windowed, FRAME);
      const peaks = essentia.SpectralPeaks(spectrum, 0.00001, 3500, 60, 40, 'magnitude', RATE);
      profiles.push_back(essentia.HPCP(peaks.frequencies, peaks.magnitudes).hpcp);
      for (const each of [frame, windowed, spectrum, peaks.frequencies, peaks.magnitudes]) each.delete();
    }
    const found = essentia.ChordsDetection(profiles, HOP, RATE, WINDOW_SECONDS).chords;
    const chords: ChordSegment[] = [];
    for (let i = 0; i < found.size(); i++) {
      const parsed = parseChord(found.get(i));
      const chord = 'chord' in parsed ? parsed.chord : null;
      const startSeconds = (i * HOP) / RATE;
      chords.push({ startSeconds, endSeconds: ((i + 1) * HOP) / RATE, chord });
    }
    signal.delete();
    return { tonic: key, mode: scale, chords, beats };
  };
}
