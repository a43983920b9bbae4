import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../../signal/index.ts';
import { KEY_OF_KIND } from '../../theory/index.ts';
import { READING_HZ } from '../melodySettings.ts';
import { hitConfidence } from './hitConfidence.ts';
import { notesOfHits } from './hitNotes.ts';
import { BANDS, createMelStream, FLOOR_DB, HIT_HOP_SAMPLES, STEP_DB } from './melFrames.ts';
import { createHitReader, keptHits, type ReadHit } from './readHits.ts';

const random = createRandom(12);

/** A kick as a falling sine, a hat as a short burst of high noise (common practice of drum synthesis). */
function drums(kicks: number[], hats: number[], seconds: number): Float32Array {
  const out = new Float32Array(Math.round(seconds * READING_HZ));
  for (const start of kicks) {
    const first = Math.round(start * READING_HZ);
    for (let i = 0; i < 0.3 * READING_HZ && first + i < out.length; i++) {
      const t = i / READING_HZ;
      out[first + i] +=
        0.7 * Math.sin(2 * Math.PI * (52 * t + 4 * (1 - Math.exp(-t / 0.03)))) * Math.exp(-t / 0.09);
    }
  }
  for (const start of hats) {
    const first = Math.round(start * READING_HZ);
    let before = 0;
    for (let i = 0; i < 0.1 * READING_HZ && first + i < out.length; i++) {
      const noise = gaussian(random);
      out[first + i] += 0.12 * (noise - 0.95 * before) * Math.exp(-i / READING_HZ / 0.02);
      before = noise;
    }
  }
  return out;
}

function read(samples: Float32Array, rate = READING_HZ): ReadHit[] {
  const reader = createHitReader(rate);
  reader.push(samples);
  return reader.finish();
}

const KICKS = [0.3, 1.3, 2.3, 3.3];
const HATS = [0.3, 0.8, 1.3, 1.8, 2.3, 2.8, 3.3, 3.8];

describe('hits of a kit', () => {
  const hits = keptHits(read(drums(KICKS, HATS, 4.5)), 0.5);

  it('are found within 10 ms', () => {
    for (const start of HATS) {
      const nearest = Math.min(...hits.map(({ seconds }) => Math.abs(seconds - start)));
      expect(nearest).toBeLessThan(0.01);
    }
    for (const { seconds } of hits)
      expect(Math.min(...HATS.map((start) => Math.abs(start - seconds)))).toBeLessThan(0.05);
  });

  it('carry their kinds, also two at once', () => {
    const at = (start: number) =>
      hits.filter(({ seconds }) => Math.abs(seconds - start) < 0.03).map(({ kind }) => kind);
    for (const start of KICKS) expect(at(start)).toContain('kick');
    for (const start of [0.8, 1.8, 2.8, 3.8]) expect(at(start)).not.toContain('kick');
    const high = ['closed-hat', 'shaker', 'open-hat', 'cymbal'];
    for (const start of [0.8, 1.8, 2.8]) expect(at(start).some((kind) => high.includes(kind))).toBe(true);
  });

  it('are fewer with less sensitivity, and always among those with more', () => {
    const all = read(drums(KICKS, HATS, 4.5));
    let before: ReadHit[] = [];
    for (const sensitivity of [0, 0.25, 0.5, 0.75, 1]) {
      const kept = keptHits(all, sensitivity);
      expect(kept.length).toBeGreaterThanOrEqual(before.length);
      for (const hit of before) expect(kept).toContain(hit);
      before = kept;
    }
    expect(before).toEqual(all);
  });

  it('are kept where something is surely struck, by the drum that is likeliest', () => {
    const all = read(drums(KICKS, HATS, 4.5));
    for (const start of HATS) {
      const stroke = all.filter(({ seconds }) => Math.abs(seconds - start) < 0.025);
      const [likeliest, ...others] = stroke.toSorted((a, b) => b.confidence - a.confidence);
      const none = others.reduce((product, { evidence }) => product * (1 - evidence), 1);
      expect(likeliest.evidence).toBeGreaterThan(1 - none);
      // That something is struck is surer than what; of the others what is likely is what they are kept by.
      expect(hitConfidence(likeliest.evidence)).toBeGreaterThan(likeliest.confidence);
      for (const { evidence, confidence } of others)
        expect(confidence).toBeCloseTo(hitConfidence(evidence), 9);
    }
  });

  it('are louder where they are struck harder', () => {
    const samples = drums([0.5, 2], [], 3);
    for (let i = Math.round(1.5 * READING_HZ); i < samples.length; i++) samples[i] *= 0.25;
    const kicks = keptHits(read(samples), 0.6).filter(({ kind }) => kind === 'kick');
    expect(kicks.length).toBe(2);
    expect(kicks[0].velocity).toBeGreaterThan(kicks[1].velocity + 15);
  });
});

describe('a drum of which others have a little', () => {
  it('is as loud as its own strokes say', () => {
    // Hats bleed into the kick faintly; a kick alone, and the same among many hats, are struck alike.
    const velocities = [drums([0.5, 2], [], 3), drums([0.5, 2], HATS, 4.5)].map((samples) => {
      const kicks = keptHits(read(samples), 0.5).filter(({ kind }) => kind === 'kick');
      return Math.max(...kicks.map(({ velocity }) => velocity));
    });
    expect(Math.abs(velocities[0] - velocities[1])).toBeLessThan(12);
  });
});

describe('the same drum', () => {
  it('is never struck twice within 30 ms, at any sensitivity', () => {
    const rolls = Array.from({ length: 60 }, (_, i) => 0.3 + 0.027 * i);
    const all = read(drums(rolls, rolls, 3));
    expect(all.length).toBeGreaterThan(20);
    for (const { seconds, kind } of all)
      expect(all.filter((hit) => hit.kind === kind && Math.abs(hit.seconds - seconds) < 0.03)).toHaveLength(
        1,
      );
  });
});

describe('what holds no hits', () => {
  it.each([
    ['nothing', new Float32Array(0)],
    ['silence', new Float32Array(READING_HZ)],
    ['faint noise', Float32Array.from({ length: READING_HZ }, () => 1e-6 * gaussian(random))],
  ])('%s', (_, samples) => {
    expect(keptHits(read(samples), 0.5)).toEqual([]);
  });

  it('a held tone', () => {
    const tone = Float32Array.from(
      { length: 4 * READING_HZ },
      (_, i) => 0.3 * Math.sin((2 * Math.PI * 220 * i) / READING_HZ) * Math.min(1, i / READING_HZ),
    );
    expect(keptHits(read(tone), 0.5).length).toBeLessThanOrEqual(2);
  });
});

describe('bands', () => {
  it('hold a sine of full scale at its level, in the band of its pitch', () => {
    const stream = createMelStream();
    // 1000 Hz is 1000 mel (O'Shaughnessy 1987).
    const tone = Float32Array.from({ length: READING_HZ }, (_, i) =>
      Math.sin((2 * Math.PI * 1000 * i) / READING_HZ),
    );
    for (let at = 0; at < tone.length; at += 1000) stream.push(tone.subarray(at, at + 1000));
    const frames = stream.finish();
    expect(frames.length).toBe((Math.floor(READING_HZ / HIT_HOP_SAMPLES) + 1) * BANDS);
    const middle = frames.subarray(80 * BANDS, 81 * BANDS);
    const loudest = middle.indexOf(Math.max(...middle));
    const mel = (hz: number) => 2595 * Math.log10(1 + hz / 700);
    const expected = ((1000 - mel(30)) / (mel(10500) - mel(30))) * 49 - 1;
    expect(Math.abs(loudest - expected)).toBeLessThan(1);
    expect(Math.abs(FLOOR_DB + STEP_DB * middle[loudest])).toBeLessThan(6);
  });
});

describe('hits as notes', () => {
  // Keys: General MIDI level 1 percussion.
  it('lie on the percussion keys and never reach into the next of their drum', () => {
    const hit = (seconds: number, kind: ReadHit['kind']): ReadHit => ({
      seconds,
      kind,
      velocity: 90,
      evidence: 0.9,
      confidence: 0.9,
      attack: 0.9,
    });
    const notes = notesOfHits([hit(0.1, 'kick'), hit(0.12, 'snare'), hit(0.15, 'kick')]);
    expect(notes.map(({ midi }) => midi)).toEqual([36, 38, 36]);
    expect(notes[0].endSeconds).toBe(0.15);
    expect(notes[1].endSeconds).toBeCloseTo(0.22, 6);
    expect(KEY_OF_KIND['closed-hat']).toBe(42);
  });
});
