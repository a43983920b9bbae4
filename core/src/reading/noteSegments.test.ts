import { describe, expect, it } from 'vitest';
import { segmentNotes } from './training.ts';

/** Evidence of one long sound that starts at frame 10, and its pitch by frame. */
function evidenceOf(midi: (frame: number) => number, frames = 120) {
  const sounding = new Float32Array(frames).map((_, t) => (t >= 10 && t < frames - 10 ? 0.95 : 0.05));
  const onset = new Float32Array(frames);
  onset[10] = 0.9;
  return {
    evidence: { sounding, onset },
    track: {
      midi: new Float32Array(frames).map((_, t) => midi(t)),
      probability: new Float32Array(frames).fill(0.9),
    },
  };
}
const starts = (midi: (frame: number) => number) => {
  const { evidence, track } = evidenceOf(midi);
  return segmentNotes(evidence, track).map((segment) => Math.round(segment.startFrame));
};

describe('segments', () => {
  it('part at a slur without any sign of a start, in the middle of the way', () => {
    const [first, second, ...more] = starts((t) => 60 + 2 / (1 + Math.exp(-(t - 60) / 1.2)));
    expect(first).toBe(10);
    expect(Math.abs(second - 60)).toBeLessThanOrEqual(2);
    expect(more).toEqual([]);
  });

  it('stay whole with vibrato, drift, a scoop or a slide', () => {
    // 11.6 ms a frame: 5.5 Hz is a cycle of 15.7 frames.
    expect(starts((t) => 60 + 1.1 * Math.sin((2 * Math.PI * t) / 15.7))).toEqual([10]);
    expect(starts((t) => 60 + 0.4 * Math.sin((2 * Math.PI * t) / 100))).toEqual([10]);
    expect(starts((t) => 60 - 2 * Math.exp(-(t - 10) / 4))).toEqual([10]);
    expect(starts((t) => 60 + Math.max(0, t - 95) * 0.3)).toEqual([10]);
  });

  it('go on over a moment in which they can hardly be heard', () => {
    const faded = (midiAfter: number, holeFrames: number, startAfter = 0) => {
      const { evidence, track } = evidenceOf((t) => (t < 60 + holeFrames ? 60 : midiAfter));
      evidence.sounding.fill(0.2, 60, 60 + holeFrames);
      evidence.onset[60 + holeFrames] = startAfter;
      return segmentNotes(evidence, track).map(({ startFrame, endFrame }) => [
        Math.round(startFrame),
        endFrame,
      ]);
    };
    expect(faded(60, 8)).toEqual([[10, 110]]);
    // Another pitch, a start, or a real rest.
    expect(faded(61, 8)).toEqual([
      [10, 60],
      [68, 110],
    ]);
    expect(faded(60, 8, 0.8)).toEqual([
      [10, 60],
      [68, 110],
    ]);
    expect(faded(60, 20)).toEqual([
      [10, 60],
      [80, 110],
    ]);
  });
});
