export { chordNotes, RHYTHMS, type ChordNotesSettings, type Rhythm, type Strike } from './chordNotes.ts';
export { suggestChords, type Place, type Suggestion } from './suggestions.ts';
export { AIMS, followNote, WAYS, type Aim, type FollowSettings, type Way } from './follow.ts';
export { followedSong, followsOf } from './followSong.ts';
export {
  changesOfTake,
  chordKeysOf,
  notesOfTake,
  soundOfChordKey,
  withTone,
  type Press,
  type TakePull,
} from './chordKeys.ts';
export {
  isTiedToRecording,
  notesOfRecording,
  passageOfRecording,
  passagesOfRecording,
  planFollowing,
  type FollowingPlan,
} from './notesOfRecording.ts';
export {
  howPlayed,
  inRound,
  planPlayIn,
  pressesFrom,
  soundOfKey,
  type HowPlayed,
  type KeySounds,
} from './playIn.ts';
