export type { BeatLikelihood } from './beatNetwork.ts';
export { tempoBinOf, tempoLogs } from './beatNetwork.ts';
export { barEvidence, decodeBars } from './decodeBeats.ts';
export {
  bpmOf,
  pulseOf,
  readBars,
  readPulse,
  readRhythm,
  type Bars,
  type Pulse,
  type RhythmReading,
} from './readRhythm.ts';
export { beatSupport, readLoop, type LoopReading } from './readLoop.ts';
export { RHYTHM_HOP_SECONDS } from './rhythmFeatures.ts';
