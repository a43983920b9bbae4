import { describe, expect, it } from 'vitest';
import { createRandom } from '@plundra/core/signal';
import { midiToHz } from '@plundra/core/theory';
import { correctionsNeeded, matchNotes, scoreContour, scoreNotes, type ScoredNote } from './metrics.ts';

const note = (startSeconds: number, midi: number, endSeconds = startSeconds + 0.5): ScoredNote => ({
  startSeconds,
  endSeconds,
  midi,
});

describe('note scores', () => {
  it('take onsets at exactly 50 ms and pitches at exactly 50 cents (rules of mir_eval: ≤ after rounding to 0.1 ms)', () => {
    expect(scoreNotes([note(1, 60)], [note(1.05, 60)]).f1).toBe(1);
    expect(scoreNotes([note(1, 60)], [note(1.0502, 60)]).f1).toBe(0);
    expect(scoreNotes([note(1, 60)], [note(1, 60.5)]).f1).toBe(1);
    expect(scoreNotes([note(1, 60)], [note(1, 60.51)]).f1).toBe(0);
  });

  it('allow ends within 50 ms or a fifth of the length, whichever is more', () => {
    expect(scoreNotes([note(1, 60, 1.1)], [note(1, 60, 1.15)], true).f1).toBe(1);
    expect(scoreNotes([note(1, 60, 1.1)], [note(1, 60, 1.16)], true).f1).toBe(0);
    expect(scoreNotes([note(1, 60, 3)], [note(1, 60, 3.39)], true).f1).toBe(1);
    expect(scoreNotes([note(1, 60, 3)], [note(1, 60, 3.42)], true).f1).toBe(0);
  });

  it('say how many notes have to be put right: a wrong one in the place of a missed one is one', () => {
    const sung = [note(1, 60), note(2, 62), note(3, 64)];
    expect(correctionsNeeded(sung, sung)).toBe(0);
    expect(correctionsNeeded(sung, [note(1, 60), note(2.1, 62), note(3, 64)])).toBe(1);
    expect(correctionsNeeded(sung, [note(1, 60), note(3, 64), note(4, 65)])).toBe(2);
    expect(correctionsNeeded(sung, [note(1, 60), note(2, 62, 2.2), note(2.2, 61), note(3, 64)])).toBe(1);
  });

  it('match one to one and as many as possible', () => {
    const reference = [note(1, 60), note(1.04, 60)];
    expect(matchNotes(reference, [note(1.02, 60), note(0.96, 60)])).toHaveLength(2);
    expect(scoreNotes(reference, [note(1, 60)])).toEqual({ precision: 1, recall: 0.5, f1: 2 / 3 });
  });

  it('are 0 without notes', () => {
    expect(scoreNotes([], [])).toEqual({ precision: 0, recall: 0, f1: 0 });
    expect(scoreNotes([note(1, 60)], []).f1).toBe(0);
  });

  it('agree with mir_eval 0.7 (Debian) on sixty notes with errors', () => {
    // The expected figures were printed by mir_eval's precision_recall_f1_overlap for these very notes.
    const random = createRandom(2024);
    const three = (value: number) => Math.round(value * 1000) / 1000;
    const two = (value: number) => Math.round(value * 100) / 100;
    const make = (count: number) =>
      Array.from({ length: count }, (_, i) => {
        const startSeconds = three(i * 0.31 + random() * 0.12);
        const endSeconds = three(startSeconds + 0.1 + random() * 0.3);
        return { startSeconds, endSeconds, midi: 55 + Math.floor(random() * 6) + two(random() - 0.5) };
      });
    const reference = make(60);
    const estimate = reference
      .filter(() => random() < 0.85)
      .map((each) => ({
        startSeconds: Math.max(0, three(each.startSeconds + (random() - 0.5) * 0.14)),
        endSeconds: three(each.endSeconds + (random() - 0.5) * 0.2),
        midi: two(each.midi + (random() - 0.5) * 1.3),
      }))
      .concat(make(60).slice(0, 6));
    const onsets = scoreNotes(reference, estimate);
    expect(onsets.precision).toBeCloseTo(0.42857142857142855, 12);
    expect(onsets.recall).toBeCloseTo(0.4, 12);
    expect(onsets.f1).toBeCloseTo(0.4137931034482759, 12);
    const withOffsets = scoreNotes(reference, estimate, true);
    expect(withOffsets.precision).toBeCloseTo(0.32142857142857145, 12);
    expect(withOffsets.f1).toBeCloseTo(0.3103448275862069, 12);
  });
});

describe('contour scores', () => {
  const hz = (...values: number[]) => Float32Array.from(values);
  it('count pitch where the reference sounds, and voicing everywhere', () => {
    const score = scoreContour(hz(440, 440, 0, 0), 0.01, [440, 470, 0, 440], 0.01);
    expect(score).toMatchObject({ rawPitch: 0.5, overall: 0.5, voicedFrames: 2, frames: 4 });
  });

  it('run evenly between frames of another hop, last to the end, and end in silence (mir_eval)', () => {
    expect(scoreContour(hz(440, 440, 440, 440), 0.01, [440, 440, 440], 0.02).rawPitch).toBe(1);
    expect(scoreContour(hz(440, 453, 466.2, 0), 0.01, [440, 466.2, 0], 0.02).rawPitch).toBe(1);
    expect(scoreContour(hz(440, 440, 440, 440), 0.01, [440, 440], 0.01).rawPitch).toBe(0.75);
    expect(scoreContour(hz(0, 0), 0.01, [], 0.01).overall).toBe(1);
  });

  it('agree with mir_eval 0.7 (Debian) on 600 frames at another hop', () => {
    // As above: printed by mir_eval for these very frames, the estimate 256 / 22050 s apart.
    const random = createRandom(78);
    const hop = 256 / 22050;
    const midiAt = (seconds: number) => 57 + 6 * Math.sin(seconds * 3) + 1.2 * Math.sin(seconds * 38);
    const reference = Float32Array.from({ length: 600 }, (_, i) =>
      i % 60 < 45 ? midiToHz(midiAt(i * 0.01)) : 0,
    );
    const estimate = Float32Array.from({ length: Math.floor(6 / hop) }, (_, i) => {
      const off = midiAt(i * hop) + (random() - 0.5) * 0.8;
      const sign = random() < 0.85 ? 1 : -1;
      return sign * (random() < 0.05 ? 0 : 1) * midiToHz(off);
    });
    const score = scoreContour(reference, 0.01, estimate, hop);
    expect(score.rawPitch).toBeCloseTo(0.9266666666666666, 12);
    expect(score.overall).toBeCloseTo(0.6333333333333333, 12);
  });

  it('agree with mir_eval 0.7 (Debian) on 400 frames with doubtful voicing', () => {
    // The expected figures were printed by mir_eval's melody.evaluate for these very frames.
    const random = createRandom(77);
    const reference = new Float32Array(400);
    const estimate = new Float32Array(400);
    for (let i = 0; i < 400; i++) {
      const midi = Math.round((57 + 6 * Math.sin(i / 30)) * 100) / 100;
      const voiced = i % 60 < 45;
      reference[i] = voiced ? midiToHz(midi) : 0;
      const off = midi + (random() - 0.5) * 1.4;
      const sign = random() < 0.85 ? 1 : -1;
      const given = random() < 0.05 ? 0 : 1;
      estimate[i] = sign * given * midiToHz(off) * (voiced || random() < 0.4 ? 1 : -1);
    }
    const score = scoreContour(reference, 0.01, estimate, 0.01);
    expect(score.rawPitch).toBeCloseTo(0.6741935483870968, 12);
    expect(score.overall).toBeCloseTo(0.575, 12);
  });

  it('do not forgive octaves', () => {
    expect(scoreContour(hz(440), 0.01, [880], 0.01).rawPitch).toBe(0);
  });
});
