export { centsFromNearest, hzToMidi, midiToHz, mod12, noteName, parseNote } from './pitch.ts';
export {
  degreeOf,
  keyName,
  keyNamed,
  keyOn,
  keysOf,
  matchesKey,
  nearestInScale,
  parallelKey,
  prefersFlats,
  sameKey,
  scaleStepAway,
  scaleSteps,
  tonicName,
  transposedKey,
  tonicPitchClass,
  voiceInterval,
  type Key,
} from './key.ts';
export { HIT_KINDS, KEY_OF_KIND, PERCUSSION_KEYS, percussionName, type HitKind } from './percussion.ts';
export {
  bassNameOf,
  bassOf,
  chordOn,
  chordSymbol,
  harteLabel,
  NO_CHORD,
  parseChord,
  pitchClassesOf,
  sameSound,
  semitonesOf,
  suffixOf,
  transposeChord,
  type Chord,
  type ChordOrNone,
  type Degree,
  type ParsedChord,
} from './chord.ts';
export { chordOfNotes } from './naming.ts';
export { nameAbove, noteNameIn, pitchClassOf, prettyName, spellInKey, transposeName } from './spelling.ts';
export {
  chordInKey,
  chordsOfKey,
  degreeOverChord,
  degreeText,
  functionOf,
  noteNamesOf,
  ordinal,
  type ChordFunction,
  type ChordInKey,
} from './degrees.ts';
export { GUITAR_STRINGS } from './guitarShapes.ts';
export {
  isWholeWithoutRoot,
  movement,
  voiceChord,
  VOICINGS,
  type Voicing,
  type VoicingSettings,
} from './voicing.ts';
