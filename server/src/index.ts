export { backUp } from './care/backups.ts';
export {
  notesOf,
  readActivationsFile,
  readChordsFiles,
  readHitsFile,
  readMelodyFile,
  readOnsetsFile,
  readShelfFile,
} from './readings/readFile.ts';
export { inspectFile } from './recordings/inspect.ts';
export { startServer, type RunningServer } from './start.ts';
