export { HOP_SECONDS, MELODY_ALGORITHM_VERSION, READING_HZ, type MelodyKind } from './melodySettings.ts';
export { createMelodyReader, readMelody, type MelodyReader, type MelodyReading } from './readMelody.ts';
export type { Contour, ReadNote } from './line.ts';
export type { KindChoice } from './kindChoice.ts';
export { velocityOfLevel } from './noteMeasures.ts';
export { estimateTuning } from './tuning.ts';
export {
  cutNote,
  drawNote,
  joinNotes,
  measurePitch,
  shiftOctave,
  SHORTEST_NOTE_SECONDS,
  trimNote,
  type NoteChange,
} from './lineEditing.ts';
export { propose, proposeFaint, PROPOSAL_KINDS, type Proposal, type ProposalKind } from './proposals.ts';
export {
  cutMeasure,
  createOnsetMeter,
  createOnsetReader,
  joinMeasures,
  keptOnsets,
  pickOnsets,
  ONSET_ALGORITHM_VERSION,
  ONSET_FRAME_SECONDS,
  type FoundOnset,
  type OnsetMeasure,
  type OnsetReader,
} from './onsets.ts';
export { combineActivations, computeActivations, type Activations } from './chordal/index.ts';
export { DEFAULT_SENSITIVITY, decodeNotes } from './chordal/decodeNotes.ts';
export { KEYS } from './chordal/index.ts';
export { CHORDAL_ALGORITHM_VERSION, createChordalReader, type ChordalReader } from './chordal/readNotes.ts';
export { CHORDAL_PROPOSAL_KINDS, proposeChordal, type ChordalProposalKind } from './chordal/proposals.ts';
export { groupStrokes, splitByRegister, type Stroke } from './chordal/strokes.ts';
export {
  createHitReader,
  HIT_ALGORITHM_VERSION,
  keptHits,
  type HitReader,
  type ReadHit,
} from './hits/readHits.ts';
export {
  judgeMaterial,
  MATERIAL_ALGORITHM_VERSION,
  MATERIAL_SECONDS,
  type MaterialChoice,
} from './material.ts';
export { notesOfHits } from './hits/hitNotes.ts';
export {
  CHORDS_ALGORITHM_VERSION,
  readChords,
  readChordsOfNotes,
  type ChordsReading,
  type ChordsSettings,
  type OtherReading,
  type ReadChord,
  type TempoReading,
} from './chords/readChords.ts';
export type { KnownBeats } from './chords/beatGrid.ts';
export { guessKeyOfChords, KEY_PROFILES, type KeyGuess } from './chords/keyOf.ts';
export { readForShelf, SHELF_ALGORITHM_VERSION, type ReadForShelf, type ShelfTempo } from './readForShelf.ts';
export { phraseBoundaries, type TakeLevels } from './phraseBoundaries.ts';
export {
  createLivePitch,
  createTuner,
  stringOf,
  VOICE_RANGE,
  type LivePitchStream,
  type TunerReading,
} from './livePitch.ts';
