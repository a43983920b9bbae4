export * from './schema.ts';
export {
  beatNoteName,
  beatsPerMinute,
  beatTicksOf,
  createTimeMap,
  formatPosition,
  isCompound,
  parsePosition,
  quartersPerMinute,
  type BarPosition,
  type TimeMap,
} from './timeMap.ts';
export { applyEdit, type Applied } from './edit.ts';
export { EditError, editSchema, type Edit, type SimpleEdit } from './editSchema.ts';
export {
  bendAt,
  bendNotes,
  bendsFrom,
  channelBends,
  channelBendsOf,
  withBends,
  type ChannelBend,
} from './bends.ts';
export { compactEdit } from './compactEdit.ts';
export { countNotesOf, MAX_NOTES_IN_SONG } from './limits.ts';
export {
  EDIT_VERSION,
  SongFormatError,
  fromOldShape,
  upgradeEdit,
  upgradeKey,
  upgradeSong,
} from './upgrade.ts';
export {
  EMPTY_HISTORY,
  HISTORY_LIMIT,
  nextInLine,
  applyStep,
  type History,
  type HistoryItem,
  type Reversible,
  type SongState,
  type Step,
  type Taken,
} from './history.ts';
export {
  playedCentsOff,
  renamed,
  soundingCentsOff,
  namedMidi,
  createPassageTime,
  DOUBTFUL_BELOW,
  isDoubtful,
  nearestNote,
  melodyLineOf,
  railMidi,
  soundingMidi,
  wantedSpan,
} from './lineNotes.ts';
export { markOf } from './mark.ts';
export { planNotePull, withLengths, type NotePullPlan } from './noteTiming.ts';
export { putNotes } from './putNotes.ts';
export { effectiveGridTicks, GRID_VALUES, gridTicks, snapTicks, type Grid, type GridValue } from './grid.ts';
export { pullToGrid, type GridPull, type PullReport, type Pulled } from './gridPull.ts';
export {
  addOnset,
  emptyStretch,
  heardAt,
  moveOnset,
  pullOnsets,
  removeOnset,
  resetOnsets,
} from './stretch.ts';
export {
  changeAt,
  changesFromReading,
  chordEntriesOf,
  ownChordsOf,
  readChordsOf,
  chordSpans,
  DOUBTFUL_CHORD_BELOW,
  isDoubtfulChord,
  pasteChords,
  putChord,
  songEndTicks,
  splitChord,
  transposeChanges,
  type ChordEntriesChange,
  type ChordPull,
  type ChordSpanOfSong,
  type ReadChordAt,
} from './changes.ts';
export { bracketedChords, chordSheetText } from './chordText.ts';
export { insertTime, moveChords, removeTime, type TimeShift } from './changeMoves.ts';
export { notesWithin, planInsertion, planRemoval, recordingsAcross } from './songTime.ts';
export { putSection, sectionFrom, sectionsOf } from './sections.ts';
export {
  offeredBpm,
  partEdits,
  planShift,
  planTempo,
  secondsToBarLine,
  tempoQuestion,
  type ReadBeats,
  type TempoKeeps,
  type TempoQuestion,
} from './tempoChange.ts';
export { planTranspose, semitonesBetween, type TransposePlan } from './transpose.ts';
