import { KEY_OF_KIND } from '../../theory/index.ts';
import type { ReadNote } from '../line.ts';
import type { ReadHit } from './readHits.ts';

/** Drums have no length; this much is drawn and written. */
const NOTE_SECONDS = 0.1;

/** Hits (in order of time) as notes on percussion keys; none reaches into the next of its drum. */
export function notesOfHits(hits: readonly Omit<ReadHit, 'attack'>[]): ReadNote[] {
  const nextOf = new Map<string, number>();
  const notes: ReadNote[] = [];
  for (let i = hits.length - 1; i >= 0; i--) {
    const { seconds, kind, velocity, confidence } = hits[i];
    notes.unshift({
      startSeconds: seconds,
      endSeconds: Math.min(seconds + NOTE_SECONDS, nextOf.get(kind) ?? Infinity),
      midi: KEY_OF_KIND[kind],
      velocity,
      confidence,
    });
    nextOf.set(kind, seconds);
  }
  return notes;
}
