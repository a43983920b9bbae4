import { describe, expect, it } from 'vitest';
import { lineNote, recordingPart } from '../test/songs.ts';
import type { LineNote, RecordingPart, RecordingPassage } from '../song/index.ts';
import { correctedTakes, correctionSpecOf } from './index.ts';

const window = (id: string, offsetSeconds: number, durationSeconds: number): RecordingPassage => ({
  type: 'recording',
  id,
  takeId: 'take',
  startTicks: offsetSeconds * 9600,
  offsetSeconds,
  durationSeconds,
});
const partOf = (notes: LineNote[], ...passages: RecordingPassage[]): RecordingPart => ({
  ...recordingPart(notes),
  passages,
});
const moved = (id: string, from: number, to: number, startSeconds: number, endSeconds: number) =>
  lineNote(id, from, to, 60, { target: { startSeconds, endSeconds } });
const spansOf = (part: RecordingPart) => {
  const spec = correctionSpecOf(correctedTakes(part)[0]);
  return spec?.as === 'notes'
    ? spec.notes.map(({ id, toStartSeconds, toEndSeconds }) => [id, toStartSeconds, toEndSeconds])
    : [];
};

describe('the correction of a take', () => {
  const notes = [moved('a', 2, 3.9, 2.3, 4.2), moved('b', 4.1, 5, 3.9, 4.8), moved('c', 3.95, 4.05, 4, 4.1)];

  it('is made once, whatever passages show of it, and without what none shows', () => {
    const part = partOf([...notes, moved('d', 30, 31, 30.2, 31.2)], window('p', 0, 4), window('q', 4, 6));
    const takes = correctedTakes(part);
    expect(takes).toHaveLength(1);
    expect(takes[0]).toMatchObject({ takeId: 'take', shownSeconds: { from: 0, to: 10 } });
    expect(takes[0].line!.notes.map(({ id }) => id)).toEqual(['a', 'c', 'b']);
    expect(correctedTakes(part)).toBe(takes);
  });

  it('moves notes freely where nothing was cut', () => {
    expect(spansOf(partOf(notes, window('p', 0, 60)))).toEqual([
      ['a', 2.3, 4.2],
      ['c', 4, 4.1],
      ['b', 3.9, 4.8],
    ]);
  });

  it('keeps a moved note inside its passage, so that it is not heard in another', () => {
    const [a, c, b] = spansOf(partOf(notes, window('p', 0, 4), window('q', 4, 6)));
    expect(a).toEqual(['a', 2.3, 4]);
    // Played across the cut it goes no further than it was played.
    expect(c).toEqual(['c', 4, 4.05]);
    expect(b).toEqual(['b', 4, 4.8]);
  });

  it('leaves a note its start that was begun just before the passage it belongs to', () => {
    const early = [moved('a', 3.97, 4.9, 3.9, 4.8), moved('b', 8, 8.5, 8.1, 8.6)];
    const [a] = spansOf(partOf(early, window('p', 0, 4), window('q', 4, 6)));
    expect(a).toEqual(['a', 3.97, 4.8]);
  });
});
