/** Players of the demo songs: a score becomes sung or sampled sound with human timing. */
import { createRandom, gaussian, type Random } from '@plundra/core/signal';
import type { BasicSoundBank } from 'spessasynth_core';
import { mono, renderPart, type Bend, type SampledNote } from './sampler.ts';
import { chordTones, stackedFrom, type ScoreNote } from './score.ts';
import { normalise, sing, type SungNote, type Voice } from './singer.ts';

export const DEMO_RATE_HZ = 44100;

export interface Frame {
  bpm: number;
  beatsPerBar: number;
  bars: number;
  chords: string[];
}

export function durationSeconds(frame: Frame): number {
  return (frame.bars * frame.beatsPerBar * 60) / frame.bpm + 2;
}

export function singPart(
  frame: Frame,
  notes: (ScoreNote & { legato: boolean })[],
  voice: Voice,
  style: { lateSeconds: number; flatCents: number; vibratoCents: number; cracks: number },
  seed: number,
): Float32Array {
  const random = createRandom(seed);
  const beatSeconds = 60 / frame.bpm;
  const sung: SungNote[] = notes.map((note) => {
    const start =
      note.beat * beatSeconds + gaussian(random) * 0.014 + style.lateSeconds * (0.7 + 0.6 * random());
    return {
      startSeconds: Math.max(0.02, start),
      endSeconds: start + note.beats * beatSeconds * 0.9,
      midi: note.midi + (gaussian(random) * 9 - style.flatCents) / 100,
      loudness: 0.55 + 0.35 * random(),
      vowel: note.vowel ?? 'a',
      legato: note.legato,
      scoopCents: note.legato ? 0 : random() < 0.45 ? 70 + 110 * random() : 15,
      vibratoCents: note.beats >= 1 ? style.vibratoCents * (0.7 + 0.6 * random()) : 0,
      vibratoHz: 5.2 + 0.8 * random(),
      consonant: !note.legato && random() < 0.5,
    };
  });
  sung.forEach((note, i) => {
    const gap = note.startSeconds - (sung[i - 1]?.endSeconds ?? 0);
    note.breathBefore = gap > 0.6 && i > 0;
    note.crack = note.endSeconds - note.startSeconds > 0.9 && random() < style.cracks;
    const next = sung[i + 1];
    if (!next) return;
    note.endSeconds = next.legato ? next.startSeconds : Math.min(note.endSeconds, next.startSeconds - 0.05);
  });
  const { samples } = sing(sung, voice, durationSeconds(frame), DEMO_RATE_HZ, seed + 1);
  normalise(samples, 0.6);
  return samples;
}

export async function playLine(
  bank: BasicSoundBank,
  program: number,
  frame: Frame,
  notes: ScoreNote[],
  /** Cents a note is sharp: hard-pressed strings go sharp high up the neck. */
  sharpCents: (midi: number, random: Random) => number,
  seed: number,
): Promise<Float32Array> {
  const random = createRandom(seed);
  const beatSeconds = 60 / frame.bpm;
  const bends: Bend[] = [];
  const played: SampledNote[] = notes.map((note, i) => {
    const start = Math.max(0.01, note.beat * beatSeconds + gaussian(random) * 0.018);
    const next = notes[i + 1];
    const length = note.beats * beatSeconds * 0.94;
    const end = next ? Math.min(start + length, next.beat * beatSeconds - 0.015) : start + length;
    const offset = sharpCents(note.midi, random) / 100;
    for (let t = 0; t < end - start; t += 0.01) {
      const grown = Math.min(1, Math.max(0, (t - 0.25) / 0.3));
      bends.push({
        timeSeconds: start + t,
        semitones: offset + 0.18 * grown * Math.sin(2 * Math.PI * 5.3 * t),
      });
    }
    return {
      startSeconds: start,
      endSeconds: end,
      midi: note.midi,
      velocity: Math.round(78 + 30 * random()),
    };
  });
  return levelledMono(
    await renderPart(bank, { program, notes: played, bends }, durationSeconds(frame), DEMO_RATE_HZ),
  );
}

export async function playStrums(
  bank: BasicSoundBank,
  program: number,
  frame: Frame,
  seed: number,
): Promise<Float32Array> {
  const random = createRandom(seed);
  const beatSeconds = 60 / frame.bpm;
  /** Eighths that are struck, and whether downwards. */
  const pattern = [
    { at: 0, down: true, strength: 92 },
    { at: 1, down: true, strength: 74 },
    { at: 1.5, down: false, strength: 66 },
    { at: 2.5, down: false, strength: 70 },
    { at: 3, down: true, strength: 82 },
    { at: 3.5, down: false, strength: 62 },
  ];
  const notes: SampledNote[] = [];
  frame.chords.forEach((symbol, bar) => {
    const strings = stackedFrom(symbol, 43, 5);
    pattern.forEach(({ at, down, strength }, k) => {
      const start = (bar * frame.beatsPerBar + at) * beatSeconds + gaussian(random) * 0.008;
      const following = pattern[k + 1]?.at ?? frame.beatsPerBar;
      const end = (bar * frame.beatsPerBar + following) * beatSeconds - 0.01;
      const order = down ? strings : [...strings].reverse().slice(0, 4);
      order.forEach((midi, i) => {
        const velocity = Math.round(strength - 4 * i + 6 * random());
        notes.push({ startSeconds: Math.max(0.005, start + i * 0.011), endSeconds: end, midi, velocity });
      });
    });
  });
  return levelledMono(await renderPart(bank, { program, notes }, durationSeconds(frame), DEMO_RATE_HZ));
}

export async function playKeys(
  bank: BasicSoundBank,
  program: number,
  frame: Frame,
  seed: number,
): Promise<Float32Array> {
  const random = createRandom(seed);
  const beatSeconds = 60 / frame.bpm;
  const notes: SampledNote[] = [];
  frame.chords.forEach((symbol, bar) => {
    const hits =
      frame.beatsPerBar === 3
        ? [[0, 3]]
        : [
            [0, 2.4],
            [2.5, 1.5],
          ];
    for (const [at, beats] of hits) {
      const start = (bar * frame.beatsPerBar + at) * beatSeconds;
      for (const midi of [...stackedFrom(symbol, 55, 3), chordTones(symbol)[0] + 36]) {
        const begin = Math.max(0.005, start + gaussian(random) * 0.008);
        notes.push({
          startSeconds: begin,
          endSeconds: start + beats * beatSeconds * 0.95,
          midi,
          velocity: Math.round(62 + 22 * random()),
        });
      }
    }
  });
  return levelledMono(await renderPart(bank, { program, notes }, durationSeconds(frame), DEMO_RATE_HZ));
}

export async function playBass(
  bank: BasicSoundBank,
  program: number,
  frame: Frame,
  seed: number,
): Promise<Float32Array> {
  const random = createRandom(seed);
  const beatSeconds = 60 / frame.bpm;
  const notes: SampledNote[] = [];
  frame.chords.forEach((symbol, bar) => {
    const [root, , fifth] = chordTones(symbol);
    const low = root + (root < 4 ? 36 : 24);
    const high = fifth + (fifth + 24 < low ? 36 : 24);
    const steps: [number, number, number][] = [
      [0, 1.5, low],
      [1.5, 0.5, low],
      [2, 1, high],
      [3, 1, bar % 2 ? low + 12 : high],
    ];
    for (const [at, beats, midi] of steps) {
      // One note of the chorus comes clearly early.
      const early = bar === 14 && at === 2 ? -0.09 : 0;
      const start = (bar * frame.beatsPerBar + at) * beatSeconds + gaussian(random) * 0.01 + early;
      const end = start + beats * beatSeconds * 0.88;
      notes.push({
        startSeconds: Math.max(0.005, start),
        endSeconds: end,
        midi,
        velocity: Math.round(84 + 20 * random()),
      });
    }
  });
  return levelledMono(await renderPart(bank, { program, notes }, durationSeconds(frame), DEMO_RATE_HZ));
}

function levelledMono(sound: Parameters<typeof mono>[0]): Float32Array {
  const samples = mono(sound);
  normalise(samples, 0.6);
  return samples;
}

/** One bar of hand drum and shaker: eighth, General MIDI percussion key, velocity. */
const HAND_PATTERN: [eighth: number, midi: number, velocity: number][] = [
  [0, 64, 104],
  [2, 62, 96],
  [3, 63, 82],
  [5, 64, 88],
  [6, 62, 100],
  [7, 63, 74],
];
const SHAKER = 70;

/** A hand drum with a shaker in eighths; a little freer at the end of every fourth bar. */
export async function playHands(bank: BasicSoundBank, frame: Frame, seed: number): Promise<Float32Array> {
  const random = createRandom(seed);
  const eighthSeconds = 30 / frame.bpm;
  const notes: SampledNote[] = [];
  const strike = (seconds: number, midi: number, velocity: number) => {
    const startSeconds = Math.max(0.01, seconds + gaussian(random) * 0.007);
    notes.push({
      startSeconds,
      endSeconds: startSeconds + 0.12,
      midi,
      velocity: Math.round(velocity * (0.9 + 0.2 * random())),
    });
  };
  for (let bar = 0; bar < frame.bars; bar++) {
    const barSeconds = bar * frame.beatsPerBar * 2 * eighthSeconds;
    for (const [eighth, midi, velocity] of HAND_PATTERN)
      strike(barSeconds + eighth * eighthSeconds, midi, velocity);
    if (bar % 4 === 3) strike(barSeconds + 6.5 * eighthSeconds, 63, 70);
    for (let eighth = 0; eighth < frame.beatsPerBar * 2; eighth++)
      strike(barSeconds + eighth * eighthSeconds, SHAKER, eighth % 2 === 0 ? 62 : 80);
  }
  return levelledMono(
    await renderPart(bank, { program: 0, drums: true, notes }, durationSeconds(frame), DEMO_RATE_HZ),
  );
}
