import { describe, expect, it } from 'vitest';
import { createRandom } from '@plundra/core/signal';
import { chancePattern, chanceStrums } from './chancePatterns.ts';
import { composeRhythm, KINDS } from './compose.ts';
import { CHOOSING_PATTERNS, KEYS, LEFT_OUT_PATTERNS, METRES } from './patterns.ts';
import { APART_PATTERNS, PRACTICE_PATTERNS } from './practicePatterns.ts';
import { PRACTICE_STRUMS, STRUMS } from './strums.ts';

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

  it('have the kick on every beat, and little between, where they are for dancing', () => {
    for (let seed = 0; seed < 100; seed++) {
      const { steps, lines } = chancePattern(createRandom(seed), undefined, true);
      const kick = lines.find(([key]) => key === KEYS.KICK)![1];
      const struck = [...kick].map((sign) => sign !== '.');
      expect(struck.every((plays, step) => plays || step % steps !== 0)).toBe(true);
      expect(struck.filter(Boolean).length).toBeLessThan(2 * (kick.length / steps));
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

describe('rhythms that are played', () => {
  const all = [...CHOOSING_PATTERNS, ...LEFT_OUT_PATTERNS, ...PRACTICE_PATTERNS, ...APART_PATTERNS];

  it('fill whole bars', () => {
    for (const { name, metre, steps, lines } of all)
      for (const [, line] of lines) {
        expect(line, name).toMatch(/^[Xx.]+$/);
        expect(line.length % (metre.beats * steps), name).toBe(0);
      }
    for (const strums of [STRUMS, PRACTICE_STRUMS])
      for (const [metre, ways] of Object.entries(strums))
        for (const text of ways) {
          const parts = text.length / parseInt(metre);
          expect(metre.endsWith('compound') ? [3] : [2, 4], text).toContain(parts);
          expect(text).toMatch(/^[Dux.]*[Du][Dux.]*$/);
        }
  });

  it('of those that are trained on none is left out, by name or by what is played', () => {
    const played = ({ metre, steps, lines }: (typeof all)[number]) => JSON.stringify([metre, steps, lines]);
    const apart = [...LEFT_OUT_PATTERNS, ...APART_PATTERNS];
    for (const pattern of PRACTICE_PATTERNS) {
      expect(apart.map(({ name }) => name)).not.toContain(pattern.name);
      expect(apart.map(played)).not.toContain(played(pattern));
    }
  });

  it('strum quarters of beats where they have so many signs', () => {
    const pattern = PRACTICE_PATTERNS.find(({ metre, name }) => metre === METRES.FOUR && name === 'ballad')!;
    const strums = { '4': ['DuDuDuDuDuDuDuDu'] };
    const piece = composeRhythm('strums', [pattern], 3, 12, { strums, loop: true });
    const quarterSeconds = (piece.beats[1] - piece.beats[0]) / 4;
    const starts = piece.parts[0].notes.map(({ startSeconds }) => startSeconds / quarterSeconds);
    for (let stroke = 0; stroke < 16; stroke++)
      expect(starts.some((each) => Math.abs(each - stroke) < 0.3)).toBe(true);
  });
});
