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
export { readBackedUpSong, recordingsIn } from './songRows.ts';
export { createShelfStore, type ShelfStore } from './shelfStore.ts';
export { createSongStore, type SongStore } from './songStore.ts';
