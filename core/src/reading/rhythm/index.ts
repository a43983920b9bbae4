export type { BeatLikelihood } from './beatNetwork.ts';
export { tempoBinOf } from './beatNetwork.ts';
export { barEvidence, decodeBars } from './decodeBeats.ts';
export { readBars, readPulse, readRhythm, type Bars, type Pulse, type RhythmReading } from './readRhythm.ts';
export { RHYTHM_HOP_SECONDS } from './rhythmFeatures.ts';
