/** What the training of the readers needs besides: inputs, intermediate stages and weights. Nothing else uses it. */
export { KINDS } from './melodySettings.ts';
export { createFeatureStream, type FrameFeatures } from './frameFeatures.ts';
export { trackPitch, type PitchTrack } from './pitchTrack.ts';
export { weighEvidence, type NoteEvidence } from './noteEvidence.ts';
export { NOTE_INPUTS, noteInputs } from './noteInputs.ts';
export { confidenceInputs, gatherEvidence } from './noteMeasures.ts';
export { segmentNotes } from './noteSegments.ts';
export { findNotes, type DecodeSettings } from './chordal/decodeNotes.ts';
export { logOddsOf, probabilityOf, type SmallNetwork } from './smallNetwork.ts';
export { contextOf } from './chordal/noteContext.ts';
export { noteConfidences } from './chordal/confidence.ts';
export { END_INPUTS, END_STEP_FRAMES, endChoices } from './chordal/noteEndInputs.ts';
export { LOUDNESS_INPUTS, loudnessInputs } from './chordal/loudness.ts';
export { LOWEST_KEY } from './chordal/index.ts';
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
export { barChanges, keyEvidence } from './chords/readChords.ts';
export { beatCandidates, beatEvidence, beatParts, evidenceWith, type BeatEvidence } from './chords/beats.ts';
export { candidateInputs, trackBeats } from './chords/beatChoice.ts';
export { BEGINNING_SHARE, lineKeyInputs, type LineUse } from './chords/keyOfLine.ts';
export { ALL_KEYS, guessKeys, KEY_INPUTS, keyInputs } from './chords/keyOf.ts';
export { loopKeyInputs } from './chords/keyOfLoop.ts';
export { RHYTHM_HOP_SECONDS, RHYTHM_INPUTS, rhythmFeatures } from './rhythm/rhythmFeatures.ts';
export { BAR_CHOICES, barInputs } from './rhythm/barChoice.ts';
export { pulseOf, readPulse, readRhythm } from './rhythm/index.ts';
export { hearLoop } from './rhythm/readLoop.ts';
export { loopCounts, loopInputs, type LoopCount } from './rhythm/loopChoice.ts';
export { hitProbabilities } from './hits/hitNetwork.ts';
export { loudestDb } from './hits/hitLevels.ts';
export { HIT_HOP_SAMPLES } from './hits/melFrames.ts';
export { findStrokes, STROKE_INPUTS, strokeInputs } from './hits/strokes.ts';
