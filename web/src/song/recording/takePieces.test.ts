import { describe, expect, it } from 'vitest';
import { takePieces } from './takePieces.ts';
import type { StoredTake } from './keepTake.ts';

/** Recorded at 100 frames a second; the song began at second 3. */
const take = (frames: number, more: Partial<StoredTake> = {}): StoredTake => ({
  id: 't',
  songId: 's',
  partId: null,
  name: 'Lead voice',
  sampleRateHz: 100,
  channels: 1,
  startedAt: '',
  startTicks: 0,
  startFrame: 300,
  frames,
  ...more,
});

describe('what is made of a recording', () => {
  it('is one take with all that was recorded, of which the song shows what began with it', () => {
    expect(takePieces(take(1000))).toEqual({
      pieces: [{ fromFrame: 0, toFrame: 1000, offsetSeconds: 3, durationSeconds: 7 }],
      heard: 0,
    });
  });

  it('ends where it was wanted to, and what came after is still there', () => {
    expect(takePieces(take(1000, { lengthSeconds: 4 })).pieces).toEqual([
      { fromFrame: 0, toFrame: 1000, offsetSeconds: 3, durationSeconds: 4 },
    ]);
  });

  it('is nothing where it ended before it began, or at once', () => {
    expect(takePieces(take(200)).pieces).toEqual([]);
    expect(takePieces(take(315)).pieces).toEqual([]);
    expect(takePieces(take(315, { roundSeconds: 4 })).pieces).toEqual([]);
  });

  it('is a take a round, each with what was sung over its edges; the last whole one is heard', () => {
    const { pieces, heard } = takePieces(take(300 + 950, { roundSeconds: 4 }));
    expect(pieces).toEqual([
      { fromFrame: 100, toFrame: 900, offsetSeconds: 2, durationSeconds: 4 },
      { fromFrame: 500, toFrame: 1250, offsetSeconds: 2, durationSeconds: 4 },
      { fromFrame: 900, toFrame: 1250, offsetSeconds: 2, durationSeconds: 1.5 },
    ]);
    expect(heard).toBe(1);
  });

  it('leaves out a round that had hardly begun, unless it is the only one', () => {
    expect(takePieces(take(300 + 450, { roundSeconds: 4 })).pieces).toHaveLength(1);
    expect(takePieces(take(300 + 50, { roundSeconds: 4 })).pieces).toHaveLength(1);
  });

  it('keeps rounds in time that are no whole number of frames', () => {
    const { pieces } = takePieces(take(300 + 4000, { roundSeconds: 1.234 }));
    pieces.slice(0, -1).forEach(({ fromFrame, offsetSeconds }, k) => {
      expect(fromFrame / 100 + offsetSeconds).toBeCloseTo(3 + k * 1.234, 9);
    });
    expect(pieces).toHaveLength(32);
  });
});
