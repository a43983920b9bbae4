export type { BeatLikelihood } from './beatNetwork.ts';
export { tempoBinOf, tempoLogs } from './beatNetwork.ts';
export { chooseBars, type Bars, type BeatsHeard } from './barChoice.ts';
export {
  beatsNear,
  bpmOf,
  pulseOf,
  readPulse,
  readRhythm,
  type Pulse,
  type RhythmReading,
} from './readRhythm.ts';
export { beatSupport, readLoop, type LoopReading } from './readLoop.ts';
export { RHYTHM_HOP_SECONDS } from './rhythmFeatures.ts';
