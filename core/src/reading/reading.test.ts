import { describe, expect, it } from 'vitest';
import { midiToHz } from '../theory/index.ts';
import { lineNote } from '../test/songs.ts';
import { createDifferenceFunction } from './differenceFunction.ts';
import { writeCandidates, CANDIDATES } from './pitchCandidates.ts';
import { READING_HZ } from './melodySettings.ts';
import {
  cutNote,
  drawNote,
  estimateTuning,
  joinNotes,
  measurePitch,
  propose,
  proposeFaint,
  shiftOctave,
  trimNote,
  velocityOfLevel,
  type Contour,
} from './index.ts';

const HOP = 0.01;
/** A contour of steps `[seconds, midi]`; 0 is silence. */
function contourOf(...steps: [number, number][]): Contour {
  const f0Hz = steps.flatMap(([seconds, midi]) =>
    Array<number>(Math.round(seconds / HOP)).fill(midi > 0 ? midiToHz(midi) : 0),
  );
  return {
    hopSeconds: HOP,
    f0Hz: Float32Array.from(f0Hz),
    confidence: new Float32Array(f0Hz.length).fill(1),
  };
}

describe('difference function', () => {
  it('equals its definition (de Cheveigné & Kawahara 2002, eqs. 6 and 8), both frames of a pair', () => {
    const [window, longest, hop] = [512, 40, 256];
    const signal = Float32Array.from({ length: 6000 }, (_, i) => Math.sin(i / 3) + 0.4 * Math.sin(i * 1.3));
    const difference = createDifferenceFunction(window, longest);
    // Two pairs in a row share blocks; after a gap everything is fresh.
    [0, 2, 4, 14].forEach((frame) => {
      const outs = [new Float32Array(longest + 1), new Float32Array(longest + 1)];
      difference.pair(signal, 10 + frame * hop, frame, outs[0], outs[1]);
      outs.forEach((out, k) => expectDefinition(out, 10 + (frame + k) * hop));
    });

    function expectDefinition(out: Float32Array, start: number) {
      let running = 0;
      for (let lag = 1; lag <= longest; lag++) {
        let difference = 0;
        for (let j = 0; j < window; j++) difference += (signal[start + j] - signal[start + j + lag]) ** 2;
        running += difference;
        expect(out[lag]).toBeCloseTo((difference * lag) / running, 3);
      }
    }
  });

  it('gives candidates whose probabilities add up to no more than one, the true period first', () => {
    const hz = 220;
    const signal = Float32Array.from(
      { length: 4000 },
      (_, i) =>
        Math.sin((2 * Math.PI * hz * i) / READING_HZ) + 0.5 * Math.sin((4 * Math.PI * hz * i) / READING_HZ),
    );
    const out = new Float32Array(401);
    createDifferenceFunction(1024, 400).pair(signal, 0, 0, out, new Float32Array(401));
    const midi = new Float32Array(CANDIDATES);
    const probability = new Float32Array(CANDIDATES);
    const aperiodicity = writeCandidates(out, 10, 399, midi, probability, 0);
    const best = probability.indexOf(Math.max(...probability));
    expect(Math.abs(midi[best] - 57) * 100).toBeLessThan(1);
    expect(probability.reduce((sum, value) => sum + value, 0)).toBeLessThanOrEqual(1.0001);
    expect(aperiodicity).toBeLessThan(0.01);
  });
});

describe('editing a line', () => {
  const contour = contourOf([0.5, 0], [1, 60.2], [0.1, 0], [1, 60.3], [1, 64]);

  it('joins to the pitch that sounds, from first start to last end', () => {
    const { remove, put } = joinNotes(
      [lineNote('b', 1.6, 2.6, 72), lineNote('a', 0.5, 1.5, 60.2, { velocity: 70 })],
      contour,
    );
    expect(remove).toEqual(['b']);
    expect(put[0]).toMatchObject({
      id: 'a',
      startSeconds: 0.5,
      endSeconds: 2.6,
      velocity: 80,
      confidence: 1,
    });
    expect(put[0].midi).toBeGreaterThan(60.15);
    expect(put[0].midi).toBeLessThan(60.35);
    expect(joinNotes([lineNote('a', 0, 1, 60)], contour)).toEqual({ remove: [], put: [] });
  });

  it('keeps what the longest piece should be when joining', () => {
    const pieces = [lineNote('a', 0.5, 0.8, 60), lineNote('b', 0.8, 1.5, 60, { target: { midi: 62 } })];
    expect(joinNotes(pieces, contour).put[0].target).toEqual({ midi: 62 });
  });

  it('cuts into two with pitches of their own, and not too short', () => {
    const note = lineNote('a', 1.6, 3.6, 62);
    const halves = cutNote(note, 2.6, contour, 'new')!;
    expect(halves.put.map((half) => Math.round(half.midi))).toEqual([60, 64]);
    expect(halves.put.map((half) => half.id)).toEqual(['a', 'new']);
    expect(cutNote(note, 1.61, contour, 'new')).toBeUndefined();
  });

  it('draws on the measured pitch where it is near, else as drawn', () => {
    const drawn = { id: 'x', startSeconds: 0.6, endSeconds: 1.4, midi: 61, velocity: 80 };
    expect(drawNote(drawn, contour).midi).toBeCloseTo(60.2, 2);
    expect(drawNote({ ...drawn, midi: 66 }, contour).midi).toBe(66);
    expect(drawNote({ ...drawn, startSeconds: 0, endSeconds: 0.4 }, contour).midi).toBe(61);
  });

  it('trims and measures again; shifts octaves with the target', () => {
    expect(trimNote(lineNote('a', 1.6, 3.6, 62), 1.6, 2.6, contour)).toMatchObject({
      startSeconds: 1.6,
      endSeconds: 2.6,
      midi: 62,
      confidence: 1,
    });
    expect(trimNote(lineNote('a', 1.6, 3.6, 60.5), 1.6, 2.6, contour).midi).toBeCloseTo(60.3, 2);
    expect(trimNote(lineNote('a', 1, 2, 60), 3, 2, contour).startSeconds).toBeLessThan(2);
    expect(shiftOctave(lineNote('a', 0, 1, 60, { target: { midi: 61 } }), 1)).toMatchObject({
      midi: 72,
      target: { midi: 73 },
    });
  });

  it('leaves a note in the octave that it was moved to, by the name it was given', () => {
    const note = shiftOctave(lineNote('a', 1.6, 3.4, 60.3, { namedMidi: 61 }), 1);
    expect(note).toMatchObject({ midi: 72.3, namedMidi: 73 });
    const midis = (change: { put: { midi: number }[] } | undefined) =>
      change?.put.map(({ midi }) => Math.round(10 * midi) / 10);
    expect(midis(cutNote(note, 2.6, contour, 'new'))).toEqual([72.3, 76]);
    expect(midis(joinNotes([note, lineNote('b', 3.4, 3.6, 64)], contour))?.[0]).toBeGreaterThan(72);
    expect(trimNote({ ...note, midi: 72.6 }, 1.7, 2.6, contour).midi).toBeCloseTo(72.3, 2);
    // The longest of the joined says which octave it is.
    const short = lineNote('c', 1.6, 1.8, 60.3);
    expect(
      midis(joinNotes([short, { ...note, startSeconds: 1.8, endSeconds: 2.6 }], contour))?.[0],
    ).toBeGreaterThan(72);
  });

  it('measures nothing where nothing is voiced', () => {
    expect(measurePitch(contour, 0, 0.4)).toBeUndefined();
  });
});

describe('proposals', () => {
  it('add fainter notes where no note is, the surest first', () => {
    const line = [lineNote('a', 1, 2, 60)];
    const faint = [
      lineNote('faint-1', 0.2, 0.5, 57, { confidence: 0.2 }),
      lineNote('faint-2', 1.8, 2.2, 62, { confidence: 0.28 }),
      lineNote('faint-3', 2.5, 2.8, 64, { confidence: 0.1 }),
    ];
    const idsOf = (amount: number, notes = line) =>
      proposeFaint(notes, faint, amount).put.map(({ id }) => id);
    expect(idsOf(100)).toEqual(['faint-1', 'faint-3']);
    expect(idsOf(50)).toEqual(['faint-1']);
    expect(idsOf(0)).toEqual([]);
    // One that was added before, and moved since, is not offered again.
    expect(idsOf(100, [...line, { ...faint[2], startSeconds: 5, endSeconds: 5.3 }])).toEqual(['faint-1']);
    expect(proposeFaint(line, faint, 100)).toMatchObject({ kind: 'faint', count: 2, remove: [] });
  });

  const silent = contourOf([60, 0]);

  it('join pieces of one note and leave true repetitions apart', () => {
    const broken = [
      lineNote('a', 1, 1.5, 60),
      lineNote('b', 1.52, 1.7, 60.2, { confidence: 0.5 }),
      lineNote('c', 3, 3.8, 64),
      lineNote('d', 3.85, 4.6, 64, { confidence: 0.99 }),
    ];
    const proposal = propose('join', broken, silent, 50);
    expect(proposal.count).toBe(1);
    expect(proposal.touched).toEqual(['a', 'b']);
    expect(proposal.remove).toEqual(['b']);
    expect(propose('join', broken, silent, 0).count).toBe(0);
  });

  it('drop ghosts before the first and after the last real note first', () => {
    const notes = [
      lineNote('breath', 0.2, 0.27, 43, { confidence: 0.3, velocity: 25 }),
      ...[1, 2, 3, 4].map((start) => lineNote(`n${start}`, start, start + 0.8, 60 + start)),
      lineNote('tail', 5.1, 5.17, 60, { confidence: 0.4, velocity: 30 }),
    ];
    expect(propose('ghosts', notes, silent, 50).remove).toEqual(['breath', 'tail']);
    expect(propose('ghosts', notes, silent, 0).count).toBe(0);
    expect(propose('ghosts', [], silent, 100).count).toBe(0);
  });

  it('never call a long, loud, sure note a ghost', () => {
    const notes = [1, 2, 3].map((start) => lineNote(`n${start}`, start, start + 0.9, 60));
    expect(propose('ghosts', notes, silent, 100).count).toBe(0);
  });

  it('fix a lone note an octave off and leave a leap that stays', () => {
    const line = [60, 62, 76, 64, 62, 60].map((midi, i) => lineNote(`n${i}`, i, i + 0.8, midi));
    const proposal = propose('octave', line, silent, 50);
    expect(proposal.put.map((note) => [note.id, note.midi])).toEqual([['n2', 64]]);
    const leap = [60, 62, 60, 74, 76, 74, 72].map((midi, i) => lineNote(`n${i}`, i, i + 0.8, midi));
    expect(propose('octave', leap, silent, 50).count).toBe(0);
  });

  it('drop the less sure of two notes found twice', () => {
    const notes = [
      lineNote('a', 1, 2, 60, { confidence: 0.6 }),
      lineNote('b', 1.01, 1.9, 60.1, { confidence: 0.9 }),
      lineNote('c', 2.5, 3, 60),
    ];
    expect(propose('duplicates', notes, silent, 50).remove).toEqual(['a']);
  });
});

describe('measures', () => {
  it('give the tuning as a circular mean: 48 and −48 cents are close together', () => {
    const notes = [60.48, 62.52, 64.49].map((midi, i) => lineNote(`${i}`, i, i + 1, midi));
    expect(Math.abs(estimateTuning(notes))).toBeGreaterThan(45);
    expect(estimateTuning([lineNote('a', 0, 0.2, 60.3)])).toBe(0);
  });

  it('map levels to velocities within 1–127', () => {
    expect(velocityOfLevel(0)).toBe(127);
    expect(velocityOfLevel(-8)).toBe(127);
    expect(velocityOfLevel(-38)).toBe(40);
    expect(velocityOfLevel(-200)).toBe(1);
  });
});
