import { describe, expect, it } from 'vitest';
import { readMelody } from '../reading/index.ts';
import { createRandom, gaussian } from '../signal/index.ts';
import {
  applyPatches,
  createRetuner,
  octavesOff,
  planTime,
  splitPitch,
  type CorrectedNote,
} from './index.ts';

const RATE = 44100;

interface Tone {
  start: number;
  end: number;
  midi: number;
  vibratoCents?: number;
}

/** A sung-like line: twelve harmonics through two resonances, soft edges, a little noise. */
function sing(tones: Tone[], seconds: number): Float32Array {
  const out = new Float32Array(seconds * RATE);
  const random = createRandom(3);
  let phase = 0;
  for (const { start, end, midi, vibratoCents = 0 } of tones) {
    for (let i = Math.round(start * RATE); i < end * RATE; i++) {
      const t = i / RATE - start;
      const now = midi + (vibratoCents / 100) * Math.sin(2 * Math.PI * 5.5 * t);
      const hz = 440 * 2 ** ((now - 69) / 12);
      phase += (2 * Math.PI * hz) / RATE;
      const edge = Math.min(1, t / 0.02, (end - start - t) / 0.02);
      for (let h = 1; h <= 12; h++) {
        const formant =
          Math.exp(-(((h * hz - 700) / 300) ** 2)) + 0.4 * Math.exp(-(((h * hz - 2400) / 500) ** 2));
        out[i] += 0.25 * edge * (0.06 + formant) * Math.sin(h * phase);
      }
    }
  }
  for (let i = 0; i < out.length; i++) out[i] += 0.0004 * gaussian(random);
  return out;
}

const played = (tones: Tone[]): CorrectedNote[] =>
  tones.map(({ start, end, midi }, i) => ({
    id: `n${i}`,
    startSeconds: start,
    endSeconds: end,
    midi,
    confidence: 1,
    toMidi: midi,
    toStartSeconds: start,
    toEndSeconds: end,
    vibratoKept: 1,
    driftKept: 1,
  }));

function prepare(tones: Tone[], seconds: number) {
  const sound = sing(tones, seconds);
  const { contour } = readMelody(sound, RATE, 'voice');
  return { sound, contour, retuner: createRetuner([sound], RATE, contour), notes: played(tones) };
}

/** Frequency of a steady stretch by the distance of alike places (plain autocorrelation, parabola at its peak). */
function frequency(sound: Float32Array, from: number, to: number, nearHz: number): number {
  const a = Math.round(from * RATE);
  const b = Math.round(to * RATE);
  // Ten periods apart, so that a sample is a tenth of its share.
  const periods = 10;
  const middle = (periods * RATE) / nearHz;
  const at = (lag: number) => {
    let [cross, energy] = [0, 0];
    for (let i = a; i + lag < b; i++) {
      cross += sound[i] * sound[i + lag];
      energy += sound[i + lag] ** 2;
    }
    return cross / Math.sqrt(energy);
  };
  let best = Math.round(middle);
  for (let lag = Math.floor(middle * 0.96); lag < middle * 1.04; lag++) if (at(lag) > at(best)) best = lag;
  const [p, q, r] = [at(best - 1), at(best), at(best + 1)];
  return (periods * RATE) / (best + (0.5 * (p - r)) / (p - 2 * q + r));
}

const cents = (hz: number, midi: number) => 1200 * Math.log2(hz / (440 * 2 ** ((midi - 69) / 12)));
const rms = (sound: Float32Array, from: number, to: number) => {
  const part = sound.subarray(Math.round(from * RATE), Math.round(to * RATE));
  return Math.sqrt(part.reduce((sum, value) => sum + value * value, 0) / part.length);
};

const THREE: Tone[] = [
  { start: 0.3, end: 1.0, midi: 57.4 },
  { start: 1.0, end: 1.8, midi: 59.3, vibratoCents: 40 },
  { start: 2.1, end: 2.9, midi: 62.25 },
];

describe('what was not touched', () => {
  it('is the recording: no correction, no patch', () => {
    const { retuner, notes } = prepare(THREE, 3.2);
    expect(retuner.render(notes)).toEqual({ patches: [], limited: [] });
  });

  it('stays bit by bit around a corrected note, also where the next follows without a gap', () => {
    const { sound, retuner, notes } = prepare(THREE, 3.2);
    const corrected = notes.map((note, i) => (i === 0 ? { ...note, toMidi: 57 } : note));
    const [out] = applyPatches([sound], retuner.render(corrected).patches);
    const untouched = (from: number, to: number) => {
      for (let i = Math.round(from * RATE); i < Math.round(to * RATE); i++)
        if (out[i] !== sound[i]) throw new Error(`sample ${i} differs`);
    };
    untouched(0, 0.2);
    untouched(1.15, 3.2);
    expect(cents(frequency(out, 0.5, 0.9, 220), 57)).toBeCloseTo(0, 0);
  });

  it('is the same every time, and both channels move together', () => {
    const { sound, contour, notes } = prepare(THREE, 3.2);
    const corrected = notes.map((note) => ({ ...note, toMidi: note.toMidi + 0.3 }));
    const half = sound.map((value) => value * 0.5);
    const stereo = createRetuner([sound, half], RATE, contour);
    const { patches } = stereo.render(corrected);
    expect(stereo.render(corrected).patches).toEqual(patches);
    for (const { channels } of patches) {
      channels[1].forEach((value, i) => {
        if (Math.abs(value - channels[0][i] * 0.5) > 1e-6) throw new Error(`sample ${i} is out of step`);
      });
    }
    expect(patches.length).toBeGreaterThan(0);
  });
});

describe('pitch', () => {
  it.each([-12, -5, -0.4, 3, 7, 12])('moves by %s semitones', (semitones) => {
    const { sound, retuner, notes } = prepare(THREE, 3.2);
    const to = 57.4 + semitones;
    const corrected = notes.map((note, i) =>
      i === 0 ? { ...note, toMidi: to, driftKept: 0, vibratoKept: 0 } : note,
    );
    const [out] = applyPatches([sound], retuner.render(corrected).patches);
    const hz = 440 * 2 ** ((to - 69) / 12);
    expect(Math.abs(cents(frequency(out, 0.45, 0.92, hz), to))).toBeLessThan(4);
  });

  it('keeps the formants: the resonance at 700 Hz stays where it is', () => {
    const { sound, retuner, notes } = prepare(THREE, 3.2);
    const corrected = notes.map((note) => ({ ...note, toMidi: note.midi + 4 }));
    const [out] = applyPatches([sound], retuner.render(corrected).patches);
    const centroid = (signal: Float32Array) => {
      const part = signal.subarray(0.45 * RATE, 0.9 * RATE);
      let [weighted, total] = [0, 0];
      for (let hz = 150; hz < 1400; hz += 5) {
        let [re, im] = [0, 0];
        part.forEach((value, i) => {
          const hann = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / part.length);
          re += value * hann * Math.cos((2 * Math.PI * hz * i) / RATE);
          im += value * hann * Math.sin((2 * Math.PI * hz * i) / RATE);
        });
        weighted += hz * (re * re + im * im);
        total += re * re + im * im;
      }
      return weighted / total;
    };
    // Moved along with the pitch it would lie a quarter higher.
    expect(centroid(out) / centroid(sound)).toBeGreaterThan(0.88);
    expect(centroid(out) / centroid(sound)).toBeLessThan(1.12);
  });

  it('keeps the vibrato when asked to, and takes it away when asked to', () => {
    const { sound, retuner, notes } = prepare(THREE, 3.2);
    const depth = (signal: Float32Array) => {
      const hz: number[] = [];
      for (let at = 1.15; at < 1.7; at += 0.01) hz.push(frequencyShort(signal, at, 246.9));
      const midi = hz.map((value) => 69 + 12 * Math.log2(value / 440));
      return (100 * (Math.max(...midi) - Math.min(...midi))) / 2;
    };
    const tuned = (vibratoKept: number) => {
      const corrected = notes.map((note, i) =>
        i === 1 ? { ...note, toMidi: 59, vibratoKept, driftKept: 0 } : note,
      );
      return applyPatches([sound], retuner.render(corrected).patches)[0];
    };
    const before = depth(sound);
    expect(before).toBeGreaterThan(33);
    expect(depth(tuned(1)) / before).toBeGreaterThan(0.9);
    expect(depth(tuned(1)) / before).toBeLessThan(1.1);
    expect(depth(tuned(0))).toBeLessThan(6);
    expect(depth(tuned(0.5)) / before).toBeGreaterThan(0.4);
    expect(depth(tuned(0.5)) / before).toBeLessThan(0.6);
  });
});

/** Frequency over four periods around an instant. */
function frequencyShort(sound: Float32Array, seconds: number, nearHz: number): number {
  const period = RATE / nearHz;
  const a = Math.round(seconds * RATE - 2 * period);
  const length = Math.round(3 * period);
  const at = (lag: number) => {
    let [cross, one, two] = [0, 0, 0];
    for (let i = a; i < a + length; i++) {
      cross += sound[i] * sound[i + lag];
      one += sound[i] ** 2;
      two += sound[i + lag] ** 2;
    }
    return cross / Math.sqrt(one * two);
  };
  let best = Math.round(period);
  for (let lag = Math.round(period * 0.9); lag < period * 1.1; lag++) if (at(lag) > at(best)) best = lag;
  const [p, q, r] = [at(best - 1), at(best), at(best + 1)];
  return RATE / (best + (0.5 * (p - r)) / (p - 2 * q + r));
}

describe('timing', () => {
  it('moves a note, and what stands alone after it not at all', () => {
    const { sound, retuner, notes } = prepare(THREE, 3.2);
    const corrected = notes.map((note, i) =>
      i === 2 ? { ...note, toStartSeconds: 2.2, toEndSeconds: 3.0 } : note,
    );
    const [out] = applyPatches([sound], retuner.render(corrected).patches);
    expect(rms(out, 1.95, 2.17)).toBeLessThan(0.01);
    expect(rms(out, 2.93, 2.98)).toBeGreaterThan(0.02);
    // The note itself is the same samples, a tenth of a second later.
    const shift = 0.1 * RATE;
    for (let i = Math.round(2.15 * RATE); i < 2.85 * RATE; i++)
      if (out[i + shift] !== sound[i]) throw new Error(`sample ${i} differs`);
    for (let i = 0; i < 1.7 * RATE; i++) if (out[i] !== sound[i]) throw new Error(`sample ${i} differs`);
  });

  it.each([0.5, 0.75, 1.4, 2])('makes a note %s times as long, its attack and pitch kept', (factor) => {
    const tones: Tone[] = [{ start: 0.5, end: 1.3, midi: 57 }];
    const { sound, retuner, notes } = prepare(tones, 3);
    const corrected = notes.map((note) => ({ ...note, toEndSeconds: 0.5 + 0.8 * factor }));
    const { patches, limited } = retuner.render(corrected);
    expect(limited).toEqual([]);
    const [out] = applyPatches([sound], patches);
    const end = 0.5 + 0.8 * factor;
    expect(rms(out, end - 0.1, end - 0.04)).toBeGreaterThan(0.03);
    expect(rms(out, end + 0.02, end + 0.2)).toBeLessThan(0.01);
    expect(Math.abs(cents(frequency(out, 0.6, end - 0.05, 220), 57))).toBeLessThan(4);
    for (let i = Math.round(0.45 * RATE); i < 0.54 * RATE; i++)
      if (out[i] !== sound[i]) throw new Error(`the attack differs at sample ${i}`);
  });

  it('keeps lengths within 50–200 % and order, and says which notes it had to limit', () => {
    const notes = played([
      { start: 0.5, end: 1, midi: 60 },
      { start: 1.2, end: 1.7, midi: 62 },
    ]);
    const late = planTime([{ ...notes[0], toEndSeconds: 5 }, notes[1]], (a, b) => (a + b) / 2);
    expect(late.limited).toEqual(['n0']);
    const early = planTime([notes[0], { ...notes[1], toStartSeconds: -1, toEndSeconds: -0.5 }], (a) => a);
    expect(early.limited).toContain('n1');
    for (const { anchors } of [late, early]) {
      anchors.slice(1).forEach((anchor, i) => {
        expect(anchor.fromSeconds).toBeGreaterThan(anchors[i].fromSeconds);
        expect(anchor.toSeconds).toBeGreaterThan(anchors[i].toSeconds);
      });
    }
  });

  it('does nothing to silence but move it', () => {
    const silence = new Float32Array(2 * RATE);
    const { contour } = readMelody(silence, RATE, 'voice');
    const note = {
      ...played([{ start: 0.5, end: 1, midi: 60 }])[0],
      toMidi: 64,
      toStartSeconds: 0.6,
      toEndSeconds: 1.2,
    };
    const { patches } = createRetuner([silence], RATE, contour).render([note]);
    expect(applyPatches([silence], patches)[0].every((value) => value === 0)).toBe(true);
  });

  it('bears notes over each other, where nothing has a pitch, and outside the recording', () => {
    const random = createRandom(8);
    const noise = Float32Array.from({ length: 2 * RATE }, () => 0.1 * gaussian(random));
    const { contour } = readMelody(noise, RATE, 'voice');
    const notes = played([
      { start: 0.2, end: 1, midi: 60 },
      { start: 0.5, end: 1.4, midi: 67 },
      { start: 1.7, end: 2.6, midi: 64 },
    ]).map((note, i) => ({
      ...note,
      toMidi: note.midi + 3,
      toStartSeconds: note.startSeconds - 0.3 + 0.1 * i,
    }));
    const { patches } = createRetuner([noise], RATE, contour).render(notes);
    const [out] = applyPatches([noise], patches);
    expect(out).toHaveLength(noise.length);
    expect(out.every((value) => Math.abs(value) < 1)).toBe(true);
    expect(rms(out, 0, 2)).toBeGreaterThan(0.05);
  });
});

describe('joins', () => {
  /** Largest step between neighbouring samples near an instant, against the largest the original has around it. */
  const jump = (out: Float32Array, sound: Float32Array, at: number) => {
    const step = (signal: Float32Array, from: number, to: number) => {
      let most = 0;
      for (let i = Math.max(1, from); i < Math.min(signal.length, to); i++)
        most = Math.max(most, Math.abs(signal[i] - signal[i - 1]));
      return most;
    };
    return step(out, at - 300, at + 300) / step(sound, at - 3000, at + 3000);
  };

  it('do not click', () => {
    const { sound, retuner, notes } = prepare(THREE, 3.2);
    const corrected = notes.map((note, i) => (i === 1 ? { ...note, toMidi: 59.9 } : note));
    const { patches } = retuner.render(corrected);
    const [out] = applyPatches([sound], patches);
    for (const patch of patches) {
      expect(jump(out, sound, patch.start)).toBeLessThan(1.3);
      expect(jump(out, sound, patch.start + patch.channels[0].length)).toBeLessThan(1.3);
    }
    // The same made without fading: where the patch is loud, a cut in the middle of a swing shows.
    const [patch] = patches;
    const cut = sound.slice();
    const shift = Math.round(RATE / 246.9 / 2);
    for (let i = patch.start + 3000; i < patch.start + 9000; i++) cut[i] = sound[i + shift];
    expect(jump(cut, sound, patch.start + 3000)).toBeGreaterThan(1.3);
  });
});

describe('splitting pitch', () => {
  const times = Array.from({ length: 200 }, (_, i) => i * 0.005);

  it('tells drift from vibrato', () => {
    const points = times.map((seconds) => ({
      seconds,
      midi: 60 + 0.2 * Math.sin(2 * Math.PI * 0.4 * seconds) + 0.3 * Math.sin(2 * Math.PI * 6 * seconds),
    }));
    const { drift, vibrato } = splitPitch(points, 60);
    for (let k = 40; k < 160; k++) {
      expect(Math.abs(drift[k] - 0.2 * Math.sin(2 * Math.PI * 0.4 * times[k]))).toBeLessThan(0.05);
      expect(drift[k] + vibrato[k]).toBeCloseTo(points[k].midi - 60, 9);
    }
  });

  it('leaves a scoop alone', () => {
    const points = times.map((seconds) => ({ seconds, midi: 60 - 2 * Math.exp(-seconds / 0.04) }));
    const { weight } = splitPitch(points, 60);
    expect(weight[0]).toBe(0);
    expect(weight[60]).toBe(1);
    expect(Math.min(...weight.slice(60))).toBe(1);
  });

  it('is the same around a note that was moved by octaves since', () => {
    const points = times.map((seconds) => ({
      seconds,
      midi: 60 + 0.3 * Math.sin(2 * Math.PI * 6 * seconds),
    }));
    for (const octaves of [-2, -1, 1]) {
      expect(splitPitch(points, 60 + 12 * octaves)).toEqual(splitPitch(points, 60));
      expect(octavesOff(points, 60.4 + 12 * octaves)).toBe(-12 * octaves);
    }
    // A fifth is no octave; where nothing was measured nothing is known.
    expect(octavesOff(points, 67)).toBe(0);
    expect(octavesOff([], 72)).toBe(0);
  });
});
