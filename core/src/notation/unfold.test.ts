import { describe, expect, it } from 'vitest';
import { playedOrder, type BarSigns } from './unfold.ts';

/** Bars named by letters: what is played, from what the bars say. */
const played = (...bars: BarSigns[]) =>
  playedOrder(bars)
    .map((i) => 'ABCDEFGH'[i])
    .join('');

// What signs mean: common practice, as in Gerou & Lusk, Essential Dictionary of Music Notation (1996), from memory.
describe('the order of bars', () => {
  it('is as written without signs', () => {
    expect(played({}, {}, {})).toBe('ABC');
  });
  it('repeats from the start, from a sign, and more than once', () => {
    expect(played({}, { repeatEnd: 2 }, {})).toBe('ABABC');
    expect(played({}, { repeatStart: true }, { repeatEnd: 2 }, {})).toBe('ABCBCD');
    expect(played({ repeatStart: true, repeatEnd: 3 }, {})).toBe('AAAB');
    expect(played({ repeatEnd: 2 }, { repeatEnd: 2 })).toBe('AABB');
  });
  it('takes the first ending first and the second then', () => {
    expect(played({}, { endings: [1], repeatEnd: 2 }, { endings: [2] }, {})).toBe('ABACD');
    expect(played({}, { endings: [1, 2], repeatEnd: 2 }, { endings: [3] }, {})).toBe('ABABACD');
    expect(played({}, { endings: [1] }, { endings: [1], repeatEnd: 2 }, { endings: [2] })).toBe('ABCAD');
  });
  it('goes back to the start until the end, without repeats', () => {
    expect(played({ repeatEnd: 2 }, { fine: true }, { jump: 'start' })).toBe('AABCAB');
    expect(played({}, { endings: [1], repeatEnd: 2 }, { endings: [2], jump: 'start' }, {})).toBe('ABACACD');
  });
  it('goes back to the sign and on to the coda', () => {
    expect(played({}, { segno: true }, { toCoda: true }, { jump: 'segno' }, { coda: true }, {})).toBe(
      'ABCDBCEF',
    );
  });
  it('does not go on for ever', () => {
    expect(playedOrder([{ repeatEnd: 1e9 }]).length).toBeLessThanOrEqual(50_000);
  });
});
