export type { Seconds, Hertz, Cents, Decibels, Ticks, Midi, Frames, Semitones } from './units.ts';
export { createRandom, gaussian, type Random } from './random.ts';
export { clamp, median, quantile, weightedMedian } from './statistics.ts';
export {
  createRealTransform,
  createTransform,
  hannWindow,
  nextPowerOfTwo,
  type RealTransform,
  type Transform,
} from './fft.ts';
export { finiteSamples } from './finite.ts';
export { createDilatedLayers, type DilatedLayer, type DilatedLayers } from './dilatedLayers.ts';
export { createRowFilter, MAX_FILTER_OUTPUTS } from './rowFilter.ts';
export { createFrameBands, FRAMES_AT_ONCE, type Band, type FrameBands } from './frameBands.ts';
export { createResampler, resample, type StreamResampler } from './resample.ts';
export {
  createPeakCollector,
  decodePeaks,
  encodePeaks,
  FINEST_FRAMES_PER_PAIR,
  LEVEL_FACTOR,
  type PeakLevel,
} from './peaks.ts';
export { delayOf, type Delay } from './delay.ts';
export { evenSpacing } from './evenSpacing.ts';
export { sampledCurve, straightened, type LinePoint } from './polyline.ts';
