import { describe, expect, it } from 'vitest';
import { bassOf, mod12, tonicPitchClass } from '@plundra/core/theory';
import { compose, ENSEMBLES } from './compose.ts';
import type { Manner } from './progression.ts';

const arrangements = (manner: Manner) =>
  Array.from({ length: 30 }, (_, seed) => compose(ENSEMBLES[seed % ENSEMBLES.length], seed, 24, manner));

describe('arrangements', () => {
  it('over a pedal stay on the tonic or the dominant, and the bass plays nothing else', () => {
    for (const { key, chords, parts } of arrangements('pedal')) {
      const basses = new Set(chords.map(({ chord }) => mod12(bassOf(chord) - tonicPitchClass(key))));
      expect([...basses].filter((step) => step !== 0 && step !== 7)).toEqual([]);
      const played = parts.filter(({ role }) => role === 'bass').flatMap(({ notes }) => notes);
      for (const { midi } of played) expect([0, 7]).toContain(mod12(midi - tonicPitchClass(key)));
      expect(chords.some(({ chord }) => chord.root !== chord.bass && chord.bass !== undefined)).toBe(true);
    }
  });

  it('with rich chords seldom play plain triads', () => {
    const chords = arrangements('rich').flatMap((each) => each.chords.map(({ chord }) => chord));
    const plain = chords.filter(({ degrees, bass, root }) => degrees.length === 3 && (bass ?? root) === root);
    expect(plain.length / chords.length).toBeLessThan(0.4);
  });

  it('name every chord over the time that it sounds, from the first beat on', () => {
    for (const manner of ['usual', 'quick', 'rich', 'pedal'] as const)
      for (const { chords, beats } of arrangements(manner)) {
        expect(chords[0].startSeconds).toBeCloseTo(beats[0], 9);
        for (const [i, chord] of chords.slice(1).entries())
          expect(chord.startSeconds).toBeCloseTo(chords[i].endSeconds, 9);
      }
  });
});
