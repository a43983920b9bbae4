import { describe, expect, it } from 'vitest';
import { noteConfidences } from './confidence.ts';
import { contextOf, type FoundNote } from './noteContext.ts';

const C3 = 48 - 21;
const found = (startFrame: number, key: number, more: Partial<FoundNote> = {}): FoundNote => ({
  key,
  startFrame,
  endFrame: startFrame + 40,
  onset: 0.5,
  sounding: 0.8,
  spread: 0.25,
  levelDb: -24,
  riseDb: 12,
  ...more,
});
const sure = { onset: 0.95, sounding: 0.95, spread: 0.4 };
/** Confidence of the first note that is not sure, among the others. */
function confidence(...notes: FoundNote[]): number {
  const ordered = [...notes].sort((a, b) => a.startFrame - b.startFrame || a.key - b.key);
  return noteConfidences(ordered)[ordered.indexOf(notes[0])];
}

describe('the confidence of a note', () => {
  it('grows with its own evidence', () => {
    expect(confidence(found(100, C3, sure))).toBeGreaterThan(0.9);
    expect(confidence(found(100, C3, sure))).toBeGreaterThan(confidence(found(100, C3)));
  });

  it('grows where its key is played again and again', () => {
    const chord = [4, 7].map((step) => found(100, C3 + step, sure));
    const again = [200, 300, 400].map((frame) => found(frame, C3, sure));
    const elsewhere = [200, 300, 400].map((frame) => found(frame, C3 + 2, sure));
    const doubtful = found(100, C3);
    expect(confidence(doubtful, ...chord, ...again)).toBeGreaterThan(
      confidence(doubtful, ...chord, ...elsewhere) + 0.1,
    );
  });

  it('falls where it could be a harmonic of a louder note that starts with it', () => {
    const doubtful = found(100, C3 + 12, { onset: 0.7, levelDb: -30 });
    const chord = [4, 7].map((step) => found(100, C3 + step, sure));
    const over = (key: number) => confidence(doubtful, ...chord, found(100, key, { ...sure, levelDb: -18 }));
    expect(over(C3)).toBeLessThan(over(C3 - 3));
    expect(over(C3 - 7)).toBeLessThan(over(C3 - 3));
  });

  it('is a probability for whatever is there', () => {
    const crowd = Array.from({ length: 300 }, (_, i) => found(Math.floor(i / 30), i % 88));
    for (const value of noteConfidences(crowd)) {
      expect(value).toBeGreaterThanOrEqual(0);
      expect(value).toBeLessThanOrEqual(1);
    }
    expect(noteConfidences([])).toEqual([]);
  });

  it('looks six seconds around a note and no further', () => {
    const inputs = (gap: number) => [...contextOf([found(0, C3), found(gap, C3, sure)])[0]];
    expect(inputs(500)).not.toEqual(inputs(600));
    expect(inputs(600)).toEqual([...contextOf([found(0, C3)])[0]]);
  });
});
