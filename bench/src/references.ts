/**
 * Reference libraries on the same clips, for the tables only; none of them ships. Each gives a pitch contour;
 * notes come from the library's own note finder where it has one (contour segmentation), else from a plain rule:
 * a note is a run of voiced frames around one whole note, lasting at least 60 ms.
 */
import { createRequire } from 'node:module';
import { hzToMidi } from '@plundra/core/theory';
import type { Clip } from './clips/clip.ts';
import type { ScoredNote } from './metrics.ts';

export interface ReferenceReading {
  f0Hz: Float32Array;
  hopSeconds: number;
  notes: ScoredNote[];
}

export interface Reference {
  name: string;
  read(clip: Clip): ReferenceReading;
}

const HOP = 441;
const SHORTEST_SECONDS = 0.06;
const require = createRequire(import.meta.url);

/** The parts of the libraries that are called here; their own types do not fit. */
interface Essentia {
  arrayToVector(values: Float32Array): unknown;
  vectorToArray(vector: unknown): Float32Array;
  PitchYinProbabilistic(
    signal: unknown,
    frame: number,
    hop: number,
    rms: number,
    unvoiced: string,
    precise: boolean,
    rate: number,
  ): { pitch: unknown; voicedProbabilities: unknown };
  PitchMelodia(signal: unknown, ...settings: unknown[]): { pitch: unknown };
  PitchContourSegmentation(
    pitch: unknown,
    signal: unknown,
    hop: number,
    minimum: number,
    distance: number,
    rms: number,
    rate: number,
  ): { onset: unknown; duration: unknown; MIDIpitch: unknown };
}

export async function loadReferences(): Promise<Reference[]> {
  const library = require('essentia.js') as {
    Essentia: new (wasm: unknown) => Essentia;
    EssentiaWASM: unknown;
  };
  const essentia = new library.Essentia(library.EssentiaWASM);
  const aubio = await startAubio();
  const pitchfinder = require('pitchfinder') as {
    YIN(settings: object): (signal: Float32Array) => number | null;
  };
  return [
    essentiaProbabilistic(essentia),
    essentiaMelodia(essentia),
    aubioPitch(aubio),
    yinLibrary(pitchfinder.YIN),
  ];
}

function segmented(
  essentia: Essentia,
  pitch: unknown,
  signal: unknown,
  hop: number,
  rate: number,
): ScoredNote[] {
  const found = essentia.PitchContourSegmentation(pitch, signal, hop, 0.05, 60, -2, rate);
  // The library refuses to convert an empty list: no note was found.
  if ((found.onset as { size(): number }).size() === 0) return [];
  const onset = essentia.vectorToArray(found.onset);
  const duration = essentia.vectorToArray(found.duration);
  const midi = essentia.vectorToArray(found.MIDIpitch);
  return Array.from(onset, (startSeconds, i) => ({
    startSeconds,
    endSeconds: startSeconds + duration[i],
    midi: midi[i],
  }));
}

function essentiaProbabilistic(essentia: Essentia): Reference {
  const hop = 256;
  return {
    name: 'essentia.js probabilistic YIN',
    read(clip) {
      const signal = essentia.arrayToVector(clip.samples);
      const { pitch } = essentia.PitchYinProbabilistic(
        signal,
        2048,
        hop,
        0.1,
        'negative',
        false,
        clip.sampleRateHz,
      );
      return {
        f0Hz: essentia.vectorToArray(pitch),
        hopSeconds: hop / clip.sampleRateHz,
        notes: segmented(essentia, sounding(essentia, pitch), signal, hop, clip.sampleRateHz),
      };
    },
  };
}

/** Its note finder wants 0 where nothing is voiced. */
function sounding(essentia: Essentia, pitch: unknown): unknown {
  return essentia.arrayToVector(essentia.vectorToArray(pitch).map((hz) => Math.max(0, hz)));
}

function essentiaMelodia(essentia: Essentia): Reference {
  const hop = 128;
  return {
    name: 'essentia.js Melodia',
    read(clip) {
      const signal = essentia.arrayToVector(clip.samples);
      const { pitch } = essentia.PitchMelodia(
        signal,
        10,
        3,
        2048,
        false,
        0.8,
        hop,
        1,
        40,
        2500,
        100,
        40,
        20,
        0.9,
        0.9,
        27.5625,
        55,
        clip.sampleRateHz,
        100,
      );
      return {
        f0Hz: essentia.vectorToArray(pitch),
        hopSeconds: hop / clip.sampleRateHz,
        notes: segmented(essentia, pitch, signal, hop, clip.sampleRateHz),
      };
    },
  };
}

interface Aubio {
  Pitch: new (
    method: string,
    buffer: number,
    hop: number,
    rate: number,
  ) => { do(frame: Float32Array): number; setTolerance?(value: number): void };
}

let aubioStarted: Promise<Aubio> | undefined;

function startAubio(): Promise<Aubio> {
  aubioStarted ??= import('aubiojs').then((module) => {
    const { default: start } = module as unknown as {
      default: (() => Promise<Aubio>) | { default: () => Promise<Aubio> };
    };
    return typeof start === 'function' ? start() : start.default();
  });
  return aubioStarted;
}

const aubioDetectors = new Map<string, InstanceType<Aubio['Pitch']>>();

/**
 * A function from consecutive hops of samples to the pitch in Hz at that time, 0 where it finds none. The library
 * never frees a detector, so there is one of each size, flushed with silence before each use.
 */
export async function createAubioPitch(
  windowSamples: number,
  hopSamples: number,
  sampleRateHz: number,
): Promise<(hop: Float32Array) => number> {
  return aubioDetector(await startAubio(), windowSamples, hopSamples, sampleRateHz);
}

function aubioDetector(aubio: Aubio, windowSamples: number, hopSamples: number, sampleRateHz: number) {
  const key = `${windowSamples}/${hopSamples}/${sampleRateHz}`;
  const detector =
    aubioDetectors.get(key) ?? new aubio.Pitch('yinfft', windowSamples, hopSamples, sampleRateHz);
  aubioDetectors.set(key, detector);
  const silence = new Float32Array(hopSamples);
  for (let i = 0; i < windowSamples / hopSamples; i++) detector.do(silence);
  return (hop: Float32Array) => detector.do(hop);
}

function aubioPitch(aubio: Aubio): Reference {
  return {
    name: 'aubiojs yinfft',
    read(clip) {
      const detect = aubioDetector(aubio, 2048, HOP, clip.sampleRateHz);
      const frames = Math.floor(clip.samples.length / HOP);
      const f0Hz = new Float32Array(frames);
      for (let i = 0; i < frames; i++) {
        const f0 = detect(clip.samples.subarray(i * HOP, (i + 1) * HOP));
        f0Hz[i] = f0 > 25 && f0 < 3000 ? (loudEnough(clip.samples, i * HOP) ? f0 : -f0) : 0;
      }
      // The detector looks back over its buffer: its answer belongs to the middle of it.
      return withRuns(shifted(f0Hz, Math.round(1024 / HOP)), HOP / clip.sampleRateHz);
    },
  };
}

function yinLibrary(makeYin: (settings: object) => (signal: Float32Array) => number | null): Reference {
  return {
    name: 'pitchfinder YIN',
    read(clip) {
      const detect = makeYin({ sampleRate: clip.sampleRateHz, threshold: 0.1 });
      const frames = Math.floor(clip.samples.length / HOP);
      const f0Hz = new Float32Array(frames);
      for (let i = 0; i < frames; i++) {
        const start = Math.max(0, i * HOP - 1024);
        const frame = clip.samples.subarray(start, start + 2048);
        const f0 = frame.length === 2048 ? detect(frame) : null;
        f0Hz[i] = f0 !== null && f0 > 25 && f0 < 3000 ? (loudEnough(clip.samples, i * HOP) ? f0 : -f0) : 0;
      }
      return withRuns(f0Hz, HOP / clip.sampleRateHz);
    },
  };
}

/** Detectors without voicing of their own get a plain gate at −50 dB below full scale; what they say below it counts as unvoiced. */
function loudEnough(samples: Float32Array, at: number): boolean {
  let sum = 0;
  for (let i = at; i < Math.min(samples.length, at + HOP); i++) sum += samples[i] ** 2;
  return sum / HOP > 1e-5;
}

function shifted(values: Float32Array, frames: number): Float32Array {
  const out = new Float32Array(values.length);
  out.set(values.subarray(frames));
  return out;
}

function withRuns(f0Hz: Float32Array, hopSeconds: number): ReferenceReading {
  const notes: ScoredNote[] = [];
  let start = -1;
  let centre = 0;
  for (let i = 0; i <= f0Hz.length; i++) {
    const midi = i < f0Hz.length && f0Hz[i] > 0 ? hzToMidi(f0Hz[i]) : NaN;
    if (start >= 0 && !(Math.abs(midi - centre) < 0.7)) {
      if ((i - start) * hopSeconds >= SHORTEST_SECONDS) {
        const inside = Array.from(f0Hz.subarray(start, i), hzToMidi).sort((a, b) => a - b);
        notes.push({
          startSeconds: start * hopSeconds,
          endSeconds: i * hopSeconds,
          midi: inside[inside.length >> 1],
        });
      }
      start = -1;
    }
    if (start < 0 && !Number.isNaN(midi)) {
      start = i;
      centre = Math.round(midi);
    }
  }
  return { f0Hz, hopSeconds, notes };
}
