export {
  DATABASE_FILE,
  needsUpgrade,
  openDatabase,
  openDatabaseFile,
  openDataFolder,
  type DataFolder,
} from './database.ts';
export { asStorageProblem, Problem } from './problem.ts';
export { createRecordingStore, type Inspection, type RecordingStore } from './recordingStore.ts';
export { readBackedUpSong } from './songRows.ts';
export { createSongStore, recordingsIn, type SongStore } from './songStore.ts';
