import { describe, expect, it } from 'vitest';
import { createRandom } from '@plundra/core/signal';
import { chancePattern, chanceStrums } from './chancePatterns.ts';
import { composeRhythm, KINDS } from './compose.ts';
import { METRES } from './patterns.ts';

describe('rhythms by chance', () => {
  it('fill whole bars, and something plays in each', () => {
    for (let seed = 0; seed < 300; seed++) {
      const { metre, steps, lines, bpm } = chancePattern(createRandom(seed));
      expect(lines.length).toBeGreaterThan(0);
      for (const [, line] of lines) expect(line.length % (metre.beats * steps)).toBe(0);
      expect(bpm[0]).toBeLessThan(bpm[1]);
      if (metre.compound) expect(steps).toBe(3);
    }
  });

  it('strum at least once a bar', () => {
    for (const metre of Object.values(METRES))
      for (let seed = 0; seed < 50; seed++) {
        const text = chanceStrums(createRandom(seed), metre);
        expect(text).toHaveLength(metre.beats * (metre.compound ? 3 : 2));
        expect(text).toMatch(/^[Dux.]+$/);
        expect(text).toMatch(/[Du]/);
      }
  });

  it('are on the grid and as loud in every bar where a machine plays them', () => {
    for (let seed = 0; seed < 20; seed++) {
      const pattern = chancePattern(createRandom(seed));
      const piece = composeRhythm('drums', [pattern], seed, 12, { free: true, machine: true });
      expect(piece.changing).toBe(false);
      const beatSeconds = piece.beats[1] - piece.beats[0];
      for (const [i, seconds] of piece.beats.entries())
        expect(seconds).toBeCloseTo(piece.beats[0] + i * beatSeconds, 6);
      const velocities = new Map<number, Set<number>>();
      for (const { midi, velocity } of piece.parts[0].notes)
        velocities.set(midi, (velocities.get(midi) ?? new Set()).add(velocity));
      // An accent and a usual stroke at most.
      for (const [midi, levels] of velocities) if (midi !== 49) expect(levels.size).toBeLessThanOrEqual(2);
    }
  });

  it('make pieces whose bar lines are beats, and loops that end with a bar', () => {
    let loops = 0;
    for (let seed = 0; seed < 60; seed++) {
      const kind = KINDS[seed % KINDS.length];
      const piece = composeRhythm(kind, [chancePattern(createRandom(seed))], seed, 12, { free: true });
      expect(piece.downbeats.every((each) => piece.beats.includes(each))).toBe(true);
      expect(piece.beats).toHaveLength(piece.downbeats.length * piece.metre.beats);
      if (!piece.loop) continue;
      loops++;
      expect(piece.beats[0]).toBe(0);
      const beatSeconds = piece.durationSeconds / piece.beats.length;
      expect(Math.abs(piece.durationSeconds - piece.beats.at(-1)! - beatSeconds)).toBeLessThan(1e-6);
    }
    expect(loops).toBeGreaterThan(5);
  });
});
