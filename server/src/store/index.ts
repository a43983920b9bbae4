export { openDatabase, openDataFolder, type DataFolder } from './database.ts';
export { asStorageProblem, Problem } from './problem.ts';
export { createRecordingStore, type Inspection, type RecordingStore } from './recordingStore.ts';
export { createSongStore, type SongStore } from './songStore.ts';
