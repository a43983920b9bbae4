/** From a corrected line to sound. */
export {
  isPitchChanged,
  isTimeChanged,
  planTime,
  MIN_STRETCH,
  MAX_STRETCH,
  type Anchor,
  type CorrectedNote,
  type TimePlan,
} from './correction.ts';
export type { PitchMarks } from './pitchMarks.ts';
export { octavesOff, splitPitch, type PitchPoint, type PitchShape } from './pitchShape.ts';
export {
  limitedOnsets,
  createStretchRenderer,
  renderStretch,
  type MovedOnset,
  type StretchResult,
  type StretchSpec,
} from './stretchSound.ts';
export { warpOf, warpedSamples, type WarpPoint, type WarpSpec } from './warp.ts';
export { createWarpRenderer, type WarpRenderer } from './warpSound.ts';
export { createPieceReader } from './pieceReader.ts';
export { planPieces, type CorrectionPiece, type Recorded } from './pieces.ts';
export { applyPatches, type Patch } from './render.ts';
export { heardTime, type HeardTime } from './heardTime.ts';
export { bendsOfNote, soundingNotes, type BendPoint, type SoundingNote } from './soundingNotes.ts';
export {
  correctedTakes,
  correctionSpecOf,
  renderCorrection,
  type CorrectedTake,
  type CorrectionSpec,
} from './correctionSpec.ts';
export { createRetuner, type RetuneResult, type Retuner } from './retune.ts';
export {
  correctedNote,
  correctedNotes,
  isCorrected,
  pitchFigures,
  riskText,
  riskyOnsets,
  risksOf,
  wantsAnotherTake,
  type LineFigures,
  type Risk,
} from './lineCorrection.ts';
export {
  lockFigures,
  matchLines,
  type LockFigures,
  type LockMatch,
  type LockNote,
  type LockPair,
} from './lockLines.ts';
