import { describe, expect, it } from 'vitest';
import { playTones, type Tone } from '../test/tones.ts';
import { createMelodyReader } from '../reading/index.ts';
import {
  applyPatches,
  planPieces,
  renderCorrection,
  type CorrectedNote,
  type CorrectionSpec,
} from './index.ts';

const RATE = 22050;

/** A minute and a half in phrases of four notes, a pause between them. */
const tones: Tone[] = Array.from({ length: 36 }, (_, i) => {
  const startSeconds = 0.5 + Math.floor(i / 4) * 9.5 + (i % 4) * 1.8;
  return { startSeconds, endSeconds: startSeconds + 1.7, midi: 57.2 + (i % 5), vibratoCents: 20 };
});
const seconds = 88;
const mono = playTones(tones, seconds, RATE);
const reader = createMelodyReader(RATE, 'guitar');
reader.push(mono);
const { contour } = reader.finish();
const notes = tones.map((tone, i): CorrectedNote => ({
  id: `n${i}`,
  startSeconds: tone.startSeconds,
  endSeconds: tone.endSeconds,
  midi: tone.midi,
  confidence: 1,
  toMidi: i % 3 === 0 ? tone.midi : Math.round(tone.midi),
  toStartSeconds: tone.startSeconds,
  toEndSeconds: tone.endSeconds,
  vibratoKept: 1,
  driftKept: 1,
}));
const whole = (spec: CorrectionSpec) =>
  applyPatches([mono, mono], renderCorrection([mono, mono], RATE, contour, spec).patches)[0];

/** The output of all pieces between two instants, each given no more than it asks for. */
function inPieces(spec: CorrectionSpec | null, from: number, to: number) {
  const pieces = planPieces(spec, contour, { sampleRateHz: RATE, length: mono.length }, from, to);
  const out = new Float32Array(to - from);
  let at = from;
  for (const piece of pieces) {
    expect(piece.from).toBe(at);
    const channel = mono.slice(piece.needFrom, piece.needTo);
    const made = piece.render([channel, channel]);
    expect(made[1]).toHaveLength(piece.to - piece.from);
    out.set(made[0], piece.from - from);
    at = piece.to;
  }
  expect(at).toBe(to);
  return { pieces, out };
}

function furthest(a: Float32Array, b: Float32Array): number {
  let most = 0;
  for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i] - b[i]));
  return most;
}

describe('a corrected recording in pieces', () => {
  it('is the same as in one, note by note', () => {
    const spec: CorrectionSpec = { as: 'notes', notes, formantSemitones: 0 };
    const { pieces, out } = inPieces(spec, 0, mono.length);
    expect(pieces.length).toBeGreaterThan(3);
    for (const piece of pieces) expect((piece.needTo - piece.needFrom) / RATE).toBeLessThan(30);
    // A place between two samples is rounded another way when counted from elsewhere.
    expect(furthest(out, whole(spec))).toBeLessThan(3e-3);
    expect(furthest(out, mono)).toBeGreaterThan(0.05);
  });

  it('has moved notes where they are in one', () => {
    // Within each phrase the second note comes later.
    const moved = notes.map((note, i) => {
      const by = i % 4 === 1 ? 0.08 : 0;
      return { ...note, toStartSeconds: note.startSeconds + by, toEndSeconds: note.endSeconds + by };
    });
    const spec: CorrectionSpec = { as: 'notes', notes: moved, formantSemitones: 0 };
    const { out } = inPieces(spec, 0, mono.length);
    // Which of several equally quiet instants gives way may differ, the course of the level does not.
    const levels = (samples: Float32Array) =>
      Array.from({ length: Math.floor(samples.length / 441) }, (_, k) =>
        Math.sqrt(
          samples.subarray(k * 441, (k + 1) * 441).reduce((sum, value) => sum + value * value, 0) / 441,
        ),
      );
    const [made, expected, before] = [out, whole(spec), mono].map((each) => Float32Array.from(levels(each)));
    expect(furthest(made, expected)).toBeLessThan(0.03);
    expect(furthest(made, before)).toBeGreaterThan(0.1);
  });

  it('may be a part of it', () => {
    const spec: CorrectionSpec = { as: 'notes', notes, formantSemitones: 0 };
    const [from, to] = [Math.round(31.7 * RATE), Math.round(52.2 * RATE)];
    const { pieces, out } = inPieces(spec, from, to);
    expect(Math.min(...pieces.map(({ needFrom }) => needFrom))).toBeGreaterThan(25 * RATE);
    expect(Math.max(...pieces.map(({ needTo }) => needTo))).toBeLessThan(60 * RATE);
    expect(furthest(out, whole(spec).subarray(from, to))).toBeLessThan(3e-3);
  });

  it('is the same as in one where onsets are moved', () => {
    const spec: CorrectionSpec = {
      as: 'stretch',
      stretch: {
        onsets: tones.map(({ startSeconds }, i) => ({
          id: `o${i}`,
          fromSeconds: startSeconds,
          toSeconds: startSeconds + (i % 3 === 1 ? 0.04 : 0),
        })),
        semitones: 0,
        how: 'stretch',
        fromSeconds: 2,
        toSeconds: 80,
      },
    };
    const { pieces, out } = inPieces(spec, 2 * RATE, 80 * RATE);
    expect(pieces.length).toBeGreaterThan(3);
    const expected = whole(spec).subarray(2 * RATE, 80 * RATE);
    // Neighbours of a piece are rendered shortened, which is heard through the fade of 4 ms between them.
    expect(furthest(out, expected)).toBeLessThan(3e-3);
    expect(furthest(out, mono.subarray(2 * RATE, 80 * RATE))).toBeGreaterThan(0.05);
  });

  it('is transposed without a seam', () => {
    const spec: CorrectionSpec = {
      as: 'stretch',
      stretch: {
        onsets: tones.map(({ startSeconds }, i) => ({
          id: `o${i}`,
          fromSeconds: startSeconds,
          toSeconds: startSeconds,
        })),
        semitones: 3,
        how: 'stretch',
        fromSeconds: 0,
        toSeconds: seconds,
      },
    };
    const { pieces, out } = inPieces(spec, 0, mono.length);
    const steps = (samples: Float32Array) => {
      let most = 0;
      for (const { to } of pieces.slice(0, -1))
        for (let i = to - 40; i < to + 40; i++) most = Math.max(most, Math.abs(samples[i] - samples[i - 1]));
      return most;
    };
    expect(pieces.length).toBeGreaterThan(3);
    expect(steps(out)).toBeLessThan(2 * steps(whole(spec)) + 0.01);
  });

  it('bounds what one piece needs, also of one endless sound', () => {
    const length = 3600 * RATE;
    const recorded = { sampleRateHz: RATE, length };
    const long = {
      ...contour,
      f0Hz: new Float32Array(400_000).fill(220),
      confidence: new Float32Array(400_000).fill(1),
    };
    const endless: CorrectedNote[] = Array.from({ length: 3600 }, (_, i) => ({
      ...notes[0],
      id: `e${i}`,
      startSeconds: i,
      endSeconds: i + 1,
      toStartSeconds: i,
      toEndSeconds: i + 1,
      toMidi: 60,
    }));
    const specs: (CorrectionSpec | null)[] = [
      null,
      { as: 'notes', notes: endless, formantSemitones: 0 },
      {
        as: 'stretch',
        stretch: { onsets: [], semitones: 5, how: 'stretch', fromSeconds: 0, toSeconds: 3600 },
      },
    ];
    for (const spec of specs) {
      const pieces = planPieces(spec, long, recorded, 0, length);
      expect(pieces[0].from).toBe(0);
      expect(pieces.at(-1)!.to).toBe(length);
      for (const piece of pieces) expect((piece.needTo - piece.needFrom) / RATE).toBeLessThan(75);
    }
  });

  it('is the recording, bit for bit, where nothing is corrected', () => {
    const { out } = inPieces(null, 1000, 30 * RATE);
    expect(out).toHaveLength(30 * RATE - 1000);
    expect(out.findIndex((value, i) => value !== mono[1000 + i])).toBe(-1);
  });
});
