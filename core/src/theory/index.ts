export { centsFromNearest, hzToMidi, midiToHz, mod12, noteName, parseNote } from './pitch.ts';
export {
  degreeOf,
  KEY_TONICS,
  keyFromSignature,
  keyName,
  keySignature,
  nearestInScale,
  prefersFlats,
  scaleStepAway,
  scaleSteps,
  tonicPitchClass,
  type Key,
  type KeyTonic,
} from './key.ts';
export { HIT_KINDS, KEY_OF_KIND, PERCUSSION_KEYS, percussionName, type HitKind } from './percussion.ts';
