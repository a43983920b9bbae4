import { describe, expect, it } from 'vitest';
import { createPieceReader, planPieces, type CorrectionPiece } from './index.ts';

/** A recording that counts, and pieces of it that say which piece they are. */
const recording = Float32Array.from({ length: 1000 }, (_, i) => i);
const edges = [0, 100, 350, 360, 1000];
function pieces(rendered: number[]): CorrectionPiece[] {
  return edges.slice(1).map((to, k) => ({
    from: edges[k],
    to,
    needFrom: Math.max(0, edges[k] - 20),
    needTo: Math.min(1000, to + 20),
    render(channels) {
      rendered.push(k);
      const first = edges[k] - Math.max(0, edges[k] - 20);
      return channels.map((channel) => channel.slice(first, first + to - edges[k]).map((value) => -value));
    },
  }));
}
const read = (from: number, to: number) => Promise.resolve([recording.slice(from, to)]);

describe('a stretch of a corrected recording', () => {
  it.each([
    [0, 1000],
    [90, 110],
    [100, 350],
    [345, 365],
    [999, 1000],
  ])('from %i to %i is what the whole has there', async (from, to) => {
    const [made] = await createPieceReader(pieces([]), read)(from, to);
    expect([...made]).toEqual([...recording.slice(from, to)].map((value) => -value));
  });

  it('renders a piece once for stretches that follow each other', async () => {
    const rendered: number[] = [];
    const stretch = createPieceReader(pieces(rendered), read);
    for (let from = 0; from < 300; from += 30) await stretch(from, from + 30);
    expect(rendered).toEqual([0, 1]);
  });

  it('is silent beyond the last piece', async () => {
    const [made] = await createPieceReader(pieces([]), read)(990, 1010);
    expect(made).toHaveLength(20);
    expect(made[9]).toBe(-999);
    expect([...made.subarray(10)].every((value) => value === 0)).toBe(true);
  });

  it('asks again for what could not be read', async () => {
    let away = true;
    const stretch = createPieceReader(
      planPieces(null, undefined, { sampleRateHz: 100, length: 1000 }, 0, 1000),
      (from, to) => (away ? Promise.reject(new Error('away')) : read(from, to)),
    );
    await expect(stretch(10, 20)).rejects.toThrow('away');
    away = false;
    expect((await stretch(10, 20))[0][0]).toBe(10);
  });
});
