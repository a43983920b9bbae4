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
  type Metre,
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
  DOUBTFUL_BELOW,
  isDoubtful,
  nearestNote,
  melodyLineOf,
  railMidi,
  readsHits,
  soundingMidi,
  wantedSpan,
} from './lineNotes.ts';
export {
  barsFrom,
  CLOSEST_BEATS_SECONDS,
  countedBeats,
  evenBpm,
  firstDownbeat,
  movedBeat,
  tapsOnOnsets,
  withBeat,
  withoutBeat,
  withTaps,
  type HeardBeats,
} from './heardBeats.ts';
export { followingBeats, playedFrame, playedTempo, type PlayedTempo } from './playedTempo.ts';
export {
  clockAlong,
  clockForLength,
  clockKeeping,
  clockPlayed,
  createPassageTime,
  FASTEST_SPEED,
  followingTicks,
  isWarped,
  SLOWEST_SPEED,
  type PassageTime,
} from './passageTime.ts';
export {
  isInWindow,
  ownsNote,
  chosenPassages,
  isShown,
  notesOriginTicks,
  passageEndSeconds,
  passageEndTicks,
  placedNote,
  placedNotes,
  placedRecordings,
  recordingsOf,
  shownNotes,
  soundingNotesOf,
  soundingSpans,
  soundingTicks,
  type PlacedRecording,
  type SoundingSpan,
  type WarpedWindow,
} from './placed.ts';
export { soundsUntil } from './soundsUntil.ts';
export {
  FASTEST_BPM,
  SLOWEST_BPM,
  movedTempoPoint,
  withoutTempoPoint,
  withRamp,
  withTempoPoint,
} from './tempoPoints.ts';
export { planStretch } from './stretchPassage.ts';
export { lengthTogether, planCopies, planRepeat } from './copies.ts';
export {
  edgeLimits,
  findPassages,
  isSpare,
  planJoin,
  planMove,
  planPassageRemoval,
  planSplit,
  planTrim,
  withoutSpares,
  withSpares,
  type Found,
  type PassagePlace,
} from './arrange.ts';
export { wholeRecording } from './takes.ts';
export { takeNames, takeTableOf, type Phrase, type TableTake, type TakeTable } from './takeTable.ts';
export { planAddNoteTakes, planPrintNotes, restsOf } from './noteTakes.ts';
export {
  placesOfTake,
  planAddTakes,
  planBoundary,
  planChoose,
  planHearTogether,
  planPhraseCut,
  planSetAside,
  planTakeName,
  planTakeRemoval,
  type Choice,
  type NewTake,
} from './takePlans.ts';
export {
  figuresOfTable,
  FIRST_TAKE_WEIGHTS,
  rankTakes,
  takeFigures,
  takeScore,
  type BestOfPhrase,
  type TakeFigures,
  type TakeWeights,
} from './takeFigures.ts';
export { markOf } from './mark.ts';
export { guessMaterial, nameOfFile } from './fileNames.ts';
export { planNotePull, withLengths, type NotePullPlan, type NotesOfPassage } from './noteTiming.ts';
export { putNotes } from './putNotes.ts';
export { GRID_VALUES, gridStepTicks, gridTicks, snapTicks, type Grid, type GridValue } from './grid.ts';
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
  type ChordWindow,
  type ReadChordAt,
} from './changes.ts';
export { beatsOfRecording, type BeatsOfSong } from './beatsOfRecording.ts';
export { bracketedChords, chordSheetText } from './chordText.ts';
export { insertTime, moveChords, removeTime, type TimeShift } from './changeMoves.ts';
export { notesWithin, planInsertion, planRemoval, recordingsAcross } from './songTime.ts';
export {
  passagesWithinTicks,
  planSectionCopy,
  putSection,
  resizedSection,
  sectionEndTicks,
  sectionFrom,
  sectionsOf,
} from './sections.ts';
export {
  offeredBpm,
  partEdits,
  planShift,
  planTempo,
  secondsToBarLine,
  tempoKeepsUnasked,
  tempoQuestion,
  type ReadBeats,
  type TempoKeeps,
  type TempoQuestion,
} from './tempoChange.ts';
export {
  passageKeyEdits,
  planTranspose,
  semitonesBetween,
  transposedLineNote,
  type TransposePlan,
} from './transpose.ts';
export { canTranspose, planTransposePassages, type Transposition } from './transposePassages.ts';
export { keyAt, keyChangesOf, keySpanAt, withKeyAt, type Keyed } from './keys.ts';
export {
  groupOf,
  groupsOf,
  isAudible,
  partRows,
  planGrouping,
  planGroupSet,
  planMoveRow,
  planUngroup,
  rowId,
  type Row,
} from './groups.ts';
export { planSectionMove } from './moveSection.ts';
export { withMetreAt } from './entries.ts';
export { planKeyAt, planModulation, type Modulation } from './modulation.ts';
