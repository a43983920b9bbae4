export {
  HOP_SECONDS,
  KINDS,
  MELODY_ALGORITHM_VERSION,
  READING_HZ,
  type MelodyKind,
} from './melodySettings.ts';
export { createFeatureStream, type FrameFeatures } from './frameFeatures.ts';
export { trackPitch, type PitchTrack } from './pitchTrack.ts';
export {
  createEvidenceInputs,
  INPUTS as EVIDENCE_INPUTS,
  weighEvidence,
  type EvidenceWeights,
  type NoteEvidence,
} from './noteEvidence.ts';
export { createMelodyReader, readMelody, type MelodyReader, type MelodyReading } from './readMelody.ts';
export type { Contour, ReadNote } from './line.ts';
export type { KindChoice } from './kindChoice.ts';
export { evidenceWeights } from './evidenceWeights.ts';
export { confidenceInputs, gatherEvidence, velocityOfLevel } from './noteMeasures.ts';
export { segmentNotes } from './noteSegments.ts';
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
export { propose, PROPOSAL_KINDS, type Proposal, type ProposalKind } from './proposals.ts';
export {
  createOnsetReader,
  keptOnsets,
  ONSET_ALGORITHM_VERSION,
  type FoundOnset,
  type OnsetReader,
} from './onsets.ts';
export { combineActivations, computeActivations, type Activations } from './chordal/index.ts';
export { DEFAULT_SENSITIVITY, decodeNotes, findNotes, type DecodeSettings } from './chordal/decodeNotes.ts';
export { confidenceOf, type ConfidenceWeights } from './chordal/confidence.ts';
export { contextOf } from './chordal/noteContext.ts';
export { KEYS, LOWEST_KEY } from './chordal/index.ts';
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
export { chromaOf, type SoundingNote, type SpanChroma } from './chords/chroma.ts';
export {
  beatInputs,
  CHORD_KINDS,
  INPUTS,
  ROOTS,
  STATES,
  type ChordKind,
  type ChordWeights,
} from './chords/chordModel.ts';
export {
  CHORDS_ALGORITHM_VERSION,
  keyEvidence,
  readChords,
  readChordsOfNotes,
  type ChordsReading,
  type ChordsSettings,
  type OtherReading,
  type ReadChord,
  type TempoReading,
} from './chords/readChords.ts';
export { guessKeyOfChords, KEY_PROFILES, type KeyGuess } from './chords/keyOf.ts';
export { beatCandidates, beatEvidence, type BeatEvidence } from './chords/beats.ts';
export { candidateInputs } from './chords/beatChoice.ts';
export { ALL_KEYS, KEY_INPUTS, keyInputs } from './chords/keyOf.ts';
