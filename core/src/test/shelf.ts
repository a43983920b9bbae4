/** Items of the shelf for tests. */
import type { ShelfItem } from '../shelf/index.ts';
import type { Note } from '../song/index.ts';

const facts = {
  tags: [],
  metre: { beats: 4, unit: 4 },
  createdAt: '2026-01-01T00:00:00.000Z',
} satisfies Partial<ShelfItem>;

/** Four bars of bass in F major at 100 bpm. */
export function bassLoop(more: Partial<ShelfItem> = {}): ShelfItem {
  return {
    ...facts,
    id: 'bass',
    name: 'Low tide walk',
    kind: 'loop',
    material: 'bass',
    key: { fifths: -1, mode: 'major' },
    bpm: 100,
    sound: {
      type: 'recording',
      recordingHash: 'b'.repeat(64),
      offsetSeconds: 0,
      durationSeconds: 9.6,
      upbeatSeconds: 0,
      picture: [],
    },
    ...more,
  };
}

export const phraseNotes: Note[] = [
  { id: 'n1', startTicks: 0, lengthTicks: 480, midi: 62, velocity: 90 },
  { id: 'n2', startTicks: 960, lengthTicks: 480, midi: 127, velocity: 80 },
];

/** A bar in D minor for the piano. */
export function pianoPhrase(more: Partial<ShelfItem> = {}): ShelfItem {
  return {
    ...facts,
    id: 'phrase',
    name: 'Kettle figure',
    kind: 'phrase',
    material: 'keys',
    key: { fifths: -1, mode: 'minor' },
    bpm: 126,
    sound: { type: 'notes', program: 0, lengthTicks: 3840, upbeatTicks: 0, noteCount: 2, picture: [] },
    ...more,
  };
}
