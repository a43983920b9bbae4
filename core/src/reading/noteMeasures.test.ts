import { describe, expect, it } from 'vitest';
import { gatherEvidence, noteConfidence } from './noteMeasures.ts';

const FRAMES = 60;
const SEGMENT = { startFrame: 20, endFrame: 55, onset: 0.4 };
const MIDI = 64;

/** Evidence around a note that sounds steadily, with the given evidence for its start, by frame. */
function evidenceOf(onset: Record<number, number>) {
  const track = {
    midi: new Float32Array(FRAMES).fill(MIDI),
    probability: new Float32Array(FRAMES).fill(0.9),
  };
  const evidence = {
    sounding: new Float32Array(FRAMES).fill(0.95),
    onset: Float32Array.from({ length: FRAMES }, (_, t) => onset[t] ?? 0),
  };
  return gatherEvidence(SEGMENT, MIDI, track, evidence);
}

describe('how sure a note is', () => {
  // A slide into a note has no frame in which it clearly starts.
  const smeared = evidenceOf({ 17: 0.3, 18: 0.35, 19: 0.4, 20: 0.4, 21: 0.4, 22: 0.35, 23: 0.3 });
  const lone = evidenceOf({ 20: 0.4 });

  it('counts evidence for its start within 50 ms, however it is spread', () => {
    expect(smeared.onsetNear).toBeCloseTo(1, 5);
    expect(lone.onsetNear).toBeCloseTo(0.16, 5);
    expect(evidenceOf({ 10: 1, 15: 1, 25: 1, 30: 1 }).onsetNear).toBe(0);
    expect(evidenceOf({ 16: 0.5, 24: 0.5 }).onsetNear).toBeCloseTo(0.4, 5);
  });

  it('is more than that of a note whose start only one frame speaks for', () => {
    expect(noteConfidence(smeared)).toBeGreaterThan(noteConfidence(lone) + 0.1);
    expect(noteConfidence(smeared)).toBeGreaterThan(0.9);
  });

  it('is little where nothing speaks for a start', () => {
    expect(noteConfidence({ ...evidenceOf({}), onset: 0 })).toBeLessThan(0.6);
  });
});
