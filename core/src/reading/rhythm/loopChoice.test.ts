import { describe, expect, it } from 'vitest';
import { tempoBinOf } from './beatNetwork.ts';
import { loopCounts, loopInputs, rankLoopCounts, type LoopHeard } from './loopChoice.ts';
import { RHYTHM_HOP_SECONDS } from './rhythmFeatures.ts';

const FRAMES = 800;
const BARS_INPUT = 11;
const THREES_INPUT = 14;

/** A loop whose beats and bar lines stand out at even distances, and whose tempo is heard. */
function heard(durationSeconds: number, beatSeconds: number, beatsPerBar: number, threes = 0.02): LoopHeard {
  const beat = new Float32Array(FRAMES).fill(0.02);
  const downbeat = new Float32Array(FRAMES).fill(0.02);
  const beats: number[] = [];
  for (let k = 0; k * beatSeconds < FRAMES * RHYTHM_HOP_SECONDS - 0.1; k++) {
    const frame = Math.round((k * beatSeconds) / RHYTHM_HOP_SECONDS);
    beat[frame] = 0.9;
    if (k % beatsPerBar === 0) downbeat[frame] = 0.8;
    beats.push(k * beatSeconds);
  }
  const compound = new Float32Array(FRAMES).fill(threes);
  const tempo = tempoBinOf(60 / beatSeconds);
  const tempi = Array.from({ length: 20 }, (_, bin) =>
    new Float32Array(FRAMES).fill(Math.abs(bin - tempo) < 1 ? 0.8 : 0.02),
  );
  return { durationSeconds, likelihood: { beat, downbeat, compound, tempi }, beats };
}

describe('how many beats a loop has', () => {
  it('is a whole number of them, in the metre of its bar lines', () => {
    expect(rankLoopCounts(heard(8, 0.5, 4))[0]).toMatchObject({ beats: 16, beatsPerBar: 4, compound: false });
    expect(rankLoopCounts(heard(6, 0.5, 3))[0]).toMatchObject({ beats: 12, beatsPerBar: 3, compound: false });
    const shares = rankLoopCounts(heard(8, 0.5, 4)).map(({ share }) => share);
    expect(shares.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1);
  });

  it('is asked for only where a metre is filled, at tempi that are played', () => {
    for (const { beats, beatsPerBar } of loopCounts(8)) {
      expect((60 * beats) / 8).toBeGreaterThan(40);
      expect((60 * beats) / 8).toBeLessThan(215);
      expect(beats % beatsPerBar === 0 || (beatsPerBar === 4 && 4 % beats === 0)).toBe(true);
    }
  });

  it('speaks for loops of two, four and eight bars, and for threes where they are heard', () => {
    const four = { beats: 16, beatsPerBar: 4, compound: false };
    const counts = [four, { ...four, beats: 20 }, { beats: 4, beatsPerBar: 2, compound: true }];
    const even = loopInputs(heard(8, 0.5, 4), counts);
    expect(even[0][BARS_INPUT]).toBeGreaterThan(even[1][BARS_INPUT] + 2);
    const inThrees = loopInputs(heard(8, 0.5, 4, 0.95), counts);
    // How much the network hears threes, for the metres that have them.
    expect([even[0][THREES_INPUT] > 0, even[2][THREES_INPUT] > 0]).toEqual([true, false]);
    expect([inThrees[0][THREES_INPUT] > 0, inThrees[2][THREES_INPUT] > 0]).toEqual([false, true]);
  });

  it('may be quicker in some metres than in others', () => {
    const counts = [4, 3, 5].map((beatsPerBar) => ({ beats: 60, beatsPerBar, compound: false }));
    const inputs = loopInputs(heard(20, 1 / 3, 3), [
      ...counts,
      { beats: 60, beatsPerBar: 2, compound: true },
    ]);
    const x = Math.log2(180 / 104);
    expect(
      inputs.map((each) => each.slice(THREES_INPUT + 1).map((value) => Number(value.toFixed(6)))),
    ).toEqual(
      [
        [0, 0, 0, 0, 0],
        [x, x * x, 0, 0, 0],
        [0, 0, 0, 0, x],
        [0, 0, x, x * x, 0],
      ].map((each) => each.map((value) => Number(value.toFixed(6)))),
    );
  });
});
