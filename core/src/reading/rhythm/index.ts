export { decodeBars } from './decodeBeats.ts';
export { readPulse, readRhythm, type Pulse, type RhythmReading } from './readRhythm.ts';
