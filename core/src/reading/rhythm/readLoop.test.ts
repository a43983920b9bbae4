import { describe, expect, it } from 'vitest';
import { playDrums } from '../../test/drums.ts';
import { rankLoopCounts } from './loopChoice.ts';
import { hearLoop, readLoop } from './readLoop.ts';

const RATE_HZ = 22_050;
const beat = { kick: 'x.......x.x.....', snare: '....x.......x...', hat: 'x.x.x.x.x.x.x.x.' };

/** So many bars from the first stroke on, to the sample. */
function loop(bpm: number, bars: number): Float32Array {
  const stepSeconds = 60 / bpm / 4;
  const played = playDrums(beat, { stepSeconds, bars: bars + 1, startSeconds: 0 });
  return played.slice(0, Math.round(bars * 16 * stepSeconds * RATE_HZ));
}

describe('the tempo of a loop', () => {
  // Drums made of noise and sines, which no network here was trained on.
  it.each([
    [96, 2],
    [100, 1],
    [126, 4],
  ])('of %i bpm and %i bars is read exactly, for a loop holds whole beats', (bpm, bars) => {
    const reading = readLoop(loop(bpm, bars))!;
    expect(reading.beats).toBe(4 * bars);
    expect(reading.bpm).toBeCloseTo(bpm, 1);
    expect(reading.goesRound).toBe(true);
  });

  it('is as sure as its beats are, in whatever metre', () => {
    const samples = loop(100, 1);
    const same = rankLoopCounts(hearLoop(samples)).filter(({ beats }) => beats === 4);
    expect(same.length).toBeGreaterThan(1);
    expect(readLoop(samples)!.confidence).toBeCloseTo(
      same.reduce((sum, { share }) => sum + share, 0),
      6,
    );
  });

  it('what is cut anywhere does not go round', () => {
    const whole = loop(100, 4);
    const cut = whole.slice(Math.round(0.37 * RATE_HZ), Math.round(6.15 * RATE_HZ));
    expect(readLoop(cut)?.goesRound).toBe(false);
  });

  it('one stroke that rings out is no loop, though it comes again with every round', () => {
    const stroke = playDrums({ kick: 'x...............' }, { stepSeconds: 0.15, bars: 1, startSeconds: 0 });
    expect(readLoop(stroke.slice(0, 2.4 * RATE_HZ))?.goesRound ?? false).toBe(false);
  });

  it('is not there where nothing has a pulse', () => {
    expect(readLoop(new Float32Array(3 * RATE_HZ))).toBeUndefined();
  });
});
