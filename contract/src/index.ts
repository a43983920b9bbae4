export * from './errors.ts';
export * from './care.ts';
export * from './events.ts';
export { paths } from './paths.ts';
export * from './readings.ts';
export * from './recordings.ts';
export * from './shelf.ts';
export * from './songs.ts';
export * from './takes.ts';
