/** Short pieces with a known pulse: drums alone, strums, picked chords, lines, basses, and several together. */
import { createRandom, gaussian, type Random } from '@plundra/core/signal';
import type { SampledNote } from '@plundra/demo';
import { chanceLine, chanceSteps } from './chanceLines.ts';
import { chanceSparseStrums, chanceStrums } from './chancePatterns.ts';
import type { DrumPattern, Metre } from './patterns.ts';
import { STRUMS } from './strums.ts';
import type { Tune } from './tunes.ts';

export const KINDS = ['drums', 'strums', 'picked', 'line', 'band'] as const;
export type RhythmKind = (typeof KINDS)[number];

export interface RhythmPart {
  role: 'drums' | 'guitar' | 'keys' | 'bass' | 'melody';
  gain: number;
  notes: SampledNote[];
  /** MIDI pitch of the tonic of the major key it is in; drums have none. */
  tonic?: number;
}

export interface RhythmPiece {
  kind: RhythmKind;
  pattern: string;
  metre: Metre;
  bpm: number;
  /** The tempo wanders more than a player's does by chance. */
  changing: boolean;
  /** It begins and ends with a bar. */
  loop: boolean;
  durationSeconds: number;
  beats: number[];
  downbeats: number[];
  parts: RhythmPart[];
}

const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)];
const chance = (random: Random, p: number) => random() < p;

export interface ComposeOptions {
  /** Strums and lines take any rhythm. */
  free?: boolean;
  /** Ways to strum, by metre, as in {@link STRUMS}; those without this. */
  strums?: typeof STRUMS;
  /** Strums by chance have one to three strokes in a bar, and keyboards play them as well. */
  sparse?: boolean;
  /** It is a loop, which else one in four is: it begins and ends with a bar. */
  loop?: boolean;
  /** What the melody plays; chords and basses go with it. Its metre is that of the patterns. */
  tune?: Tune;
  /** It is played by a machine: on the grid, and each stroke of a drum as loud as the others. */
  machine?: boolean;
}

/** A piece of about `seconds`; all follows from the seed. */
export function composeRhythm(
  kind: RhythmKind,
  patterns: readonly DrumPattern[],
  seed: number,
  seconds: number,
  {
    free = false,
    strums = STRUMS,
    sparse = false,
    loop: asLoop = false,
    tune,
    machine = false,
  }: ComposeOptions = {},
): RhythmPiece {
  const random = createRandom(seed);
  const pattern = pick(random, patterns);
  const { metre } = pattern;
  const [slowest, fastest] = pattern.bpm;
  const drawnBpm = slowest * (fastest / slowest) ** random();
  const bpm = tune?.bpm ?? drawnBpm;
  const loop = chance(random, 0.25) || asLoop;
  const start = loop ? 0 : 0.05 + 2.4 * random() ** 2;
  const bars = Math.max(2, Math.round((seconds - start) / ((60 / bpm) * metre.beats)));
  const count = bars * metre.beats;
  const changing = !loop && !machine && chance(random, 0.25);
  const beats = pulse(random, start, 60 / bpm, count, { steady: loop || machine, changing });
  const at = (beat: number) => {
    const whole = Math.max(0, Math.min(count - 1, Math.floor(beat)));
    return beats[whole] + (beat - whole) * (beats[whole + 1] - beats[whole]);
  };
  const swing = pattern.swings && chance(random, 0.35) ? 0.5 + 0.2 * random() : 0.5;
  const scene: Scene = {
    random,
    at,
    metre,
    bars,
    pattern,
    swing,
    human: machine ? 0 : loop ? 0.3 : 0.5 + random(),
    free,
    strums,
    sparse,
    tune,
  };
  return {
    kind,
    pattern: pattern.name,
    metre,
    bpm,
    changing,
    loop,
    durationSeconds: beats[count] + (loop ? 0 : 0.3 + random()),
    beats: beats.slice(0, count),
    downbeats: beats.slice(0, count).filter((_, i) => i % metre.beats === 0),
    parts: partsOf(kind, scene),
  };
}

interface Scene {
  random: Random;
  at: (beat: number) => number;
  metre: Metre;
  bars: number;
  pattern: DrumPattern;
  /** Where the second of two halves lies, 0.5 even … 0.7. */
  swing: number;
  /** How unevenly it is played; 1 is usual. */
  human: number;
  free: boolean;
  strums: typeof STRUMS;
  sparse: boolean;
  tune?: Tune;
}

/** Times of beats, and of the one after the last. */
function pulse(
  random: Random,
  start: number,
  beatSeconds: number,
  count: number,
  { steady, changing }: { steady: boolean; changing: boolean },
): number[] {
  const beats = [start];
  let drift = 0;
  const slope = changing ? (random() - 0.5) * 0.4 : 0;
  const sway = changing ? 0.06 * random() : 0;
  const swayBeats = 8 + 16 * random();
  for (let beat = 0; beat < count; beat++) {
    drift = 0.9 * drift + (steady ? 0 : 0.004 * gaussian(random));
    const bent = 1 + slope * (beat / count - 0.5) + sway * Math.sin((2 * Math.PI * beat) / swayBeats);
    beats.push(beats[beat] + beatSeconds * bent * (1 + drift));
  }
  return beats;
}

function partsOf(kind: RhythmKind, scene: Scene): RhythmPart[] {
  const { random, tune } = scene;
  const sung = () => (tune && chance(random, 0.6) ? [tuneLine(scene, tune)] : []);
  switch (kind) {
    case 'drums':
      return [drums(scene)];
    case 'strums':
      return [strums(scene), ...sung()];
    case 'picked':
      return [picked(scene), ...sung()];
    case 'line':
      if (tune) return [tuneLine(scene, tune)];
      return [line(scene, chance(random, 0.35) ? 'bass' : 'melody')];
    case 'band': {
      const parts = [drums(scene), line(scene, 'bass')];
      if (chance(random, 0.6)) parts.push(chance(random, 0.5) ? strums(scene) : picked(scene));
      if (tune) parts.push(...sung());
      else if (chance(random, 0.3)) parts.push(line(scene, 'melody'));
      return parts.filter((_, i) => i !== 0 || chance(random, 0.85));
    }
  }
}

const velocity = (random: Random, middle: number, human = 1) =>
  Math.round(Math.max(20, Math.min(126, middle + (human > 0 ? 9 : 0) * gaussian(random))));

function drums({ random, at, metre, bars, pattern, swing, human }: Scene): RhythmPart {
  const machine = human === 0;
  const accents = !machine || chance(random, 0.6);
  const notes: SampledNote[] = [];
  const { steps } = pattern;
  const perBar = metre.beats * steps;
  // Lines are left out now and then, so that not all hangs on the hat or the kick.
  const lines = pattern.lines.filter((_, i) => i === 0 || !chance(random, 0.12));
  const fills = chance(random, 0.5);
  // Drums are mixed and played in every balance.
  const balance = new Map(lines.map(([key]) => [key, 0.45 + 0.75 * random()]));
  for (let bar = 0; bar < bars; bar++) {
    const filled = fills && bar % 4 === 3;
    for (const [key, text] of lines)
      for (let step = 0; step < perBar; step++) {
        const sign = text[(bar * perBar + step) % text.length];
        const busy = filled && step >= perBar - steps && chance(random, 0.6);
        if (sign === '.' && !(busy && key !== 42)) continue;
        if (sign === 'x' && !machine && chance(random, 0.06)) continue;
        const seconds = at(bar * metre.beats + swung(step / steps, steps, swing));
        const startSeconds = seconds + 0.006 * human * gaussian(random);
        notes.push({
          startSeconds,
          endSeconds: startSeconds + 0.12,
          midi: key,
          velocity: velocity(random, (sign === 'X' || !accents ? 98 : 62) * balance.get(key)!, human),
        });
      }
    if (bar % 8 === 0 && chance(random, 0.4))
      notes.push({
        startSeconds: at(bar * metre.beats),
        endSeconds: at(bar * metre.beats) + 1,
        midi: 49,
        velocity: 96,
      });
  }
  return { role: 'drums', gain: 1, notes };
}

/** Beats into a bar, the second half of a beat, or of half a beat in sixteenths, late by swing. */
function swung(beat: number, steps: number, swing: number): number {
  if (steps === 3) return beat;
  const unit = steps === 4 ? 0.5 : 1;
  const whole = Math.floor(beat / unit + 1e-9) * unit;
  const within = (beat - whole) / unit;
  return whole + unit * (within < 0.25 ? within : swing + (within - 0.5));
}

/** Roots of chords, one for each bar, and third and fifth above. */
function progression({ random, bars, tune }: Scene): { tonic: number; chords: number[][] } {
  const lowest = 40 + Math.floor(random() * 12);
  const tonic = tune ? 40 + ((tune.tonicClass + 8) % 12) : lowest;
  const steps = [0, 5, 7, 9, 2, 4];
  const minor = [9, 2, 4];
  const loop = Array.from({ length: pick(random, [2, 4, 4, 8]) }, (_, i) =>
    i === 0 ? 0 : pick(random, steps),
  );
  const every = pick(random, [1, 1, 1, 2]);
  const chords = Array.from({ length: bars }, (_, bar) => {
    const step = tune ? tune.steps[bar % tune.bars] : loop[Math.floor(bar / every) % loop.length];
    return [0, minor.includes(step) ? 3 : 4, 7].map((above) => tonic + step + above);
  });
  return { tonic, chords };
}

const stepsOf = ({ compound }: Metre) => (compound ? 3 : 2);

function strums(scene: Scene): RhythmPart {
  const { random, at, metre, swing, human, free, sparse } = scene;
  const { tonic, chords } = progression(scene);
  const byChance = sparse ? chanceSparseStrums : chanceStrums;
  const ways = free
    ? [byChance(random, metre), byChance(random, metre)]
    : scene.strums[metre.compound ? `${metre.beats} compound` : String(metre.beats)];
  const main = pick(random, ways);
  const other = chance(random, 0.4) ? pick(random, ways) : main;
  const notes: SampledNote[] = [];
  const accent = 6 + 18 * random();
  chords.forEach(([root, third, fifth], bar) => {
    const strings = [root, fifth, root + 12, third + 12, fifth + 12].map((midi) =>
      midi < 40 ? midi + 12 : midi,
    );
    const text = bar % 4 === 3 ? other : main;
    const steps = text.length / metre.beats;
    for (let step = 0; step < metre.beats * steps; step++) {
      const sign = text[step % text.length];
      if (sign === '.') continue;
      const beat = bar * metre.beats + swung(step / steps, steps, swing);
      const begin = at(beat) + 0.009 * human * gaussian(random);
      const muted = sign === 'x';
      const length = muted ? 0.05 : (0.5 + 1.5 * random()) * (at(beat + 1) - at(beat));
      const order = sign === 'u' ? strings.slice(1).reverse() : strings;
      const loud = (step === 0 ? 74 + accent : step % steps === 0 ? 74 : 66) - (muted ? 14 : 0);
      order.forEach((midi, i) =>
        notes.push({
          startSeconds: begin + i * (0.006 + 0.012 * random()),
          endSeconds: begin + length,
          midi,
          velocity: velocity(random, loud),
        }),
      );
    }
  });
  const role = sparse && chance(random, 0.6) ? 'keys' : 'guitar';
  return { role, gain: 0.9, notes: endRestruck(notes), tonic };
}

function picked(scene: Scene): RhythmPart {
  const { random, at, metre, bars, swing, human, free } = scene;
  const { tonic, chords } = progression(scene);
  const steps = free ? chanceSteps(random, metre, at(1) - at(0)) : stepsOf(metre);
  const order = Array.from({ length: metre.beats * steps }, (_, i) =>
    i === 0 ? 0 : 1 + Math.floor(random() * 4),
  );
  // Not every pattern is a stream of even notes.
  const cells = free && chance(random, 0.5) ? chanceLine(random, metre, steps, bars) : undefined;
  const held = chance(random, 0.35);
  const notes: SampledNote[] = [];
  chords.forEach(([root, third, fifth], bar) => {
    const tones = [root, fifth, root + 12, third + 12, fifth + 12];
    const play = (beat: number, midi: number, loud: number, beats: number) => {
      const startSeconds = at(beat) + 0.009 * human * gaussian(random);
      notes.push({ startSeconds, endSeconds: at(beat + beats), midi, velocity: velocity(random, loud) });
    };
    if (held)
      for (let beat = 0; beat < metre.beats; beat++) {
        const all = beat === 0 || chance(random, 0.6);
        for (const midi of all ? tones : tones.slice(2))
          if (beat === 0 || midi !== tones[0])
            play(bar * metre.beats + beat, midi, beat === 0 ? 80 : 68, 0.9);
      }
    else
      order.forEach((tone, step) => {
        if (cells ? !cells.bars[bar][step] : step > 0 && chance(random, 0.08)) return;
        const beat = bar * metre.beats + swung(step / steps, steps, swing);
        play(beat, tones[tone], step === 0 ? 84 : step % steps === 0 ? 76 : 66, 1.5);
      });
  });
  return { role: chance(random, 0.5) ? 'guitar' : 'keys', gain: 0.8, notes: endRestruck(notes), tonic };
}

/** A melody or a bass line: a rhythm of a bar or two that comes again, with changes. */
function line(scene: Scene, role: 'bass' | 'melody'): RhythmPart {
  const { random, at, metre, bars, swing, human, free } = scene;
  const { tonic, chords } = progression(scene);
  const cells =
    free && chance(random, 0.55)
      ? chanceLine(random, metre, chanceSteps(random, metre, at(1) - at(0)), bars)
      : undefined;
  const steps = cells?.steps ?? stepsOf(metre);
  const perBar = metre.beats * steps;
  // Slow lines and busy ones, on the beat and beside it.
  const busy = free ? 0.5 + random() : 1;
  const rhythm = () =>
    Array.from({ length: perBar }, (_, step) => {
      const onBeat = step % steps === 0;
      if (step === 0) return chance(random, role === 'bass' ? 0.97 : 0.85);
      return chance(random, busy * (onBeat ? 0.72 : role === 'bass' ? 0.3 : 0.36));
    });
  const motifs = [rhythm(), rhythm()];
  const notes: SampledNote[] = [];
  let degree = 0;
  chords.forEach(([root, third, fifth], bar) => {
    const motif = cells?.bars[bar] ?? (chance(random, 0.15) ? rhythm() : motifs[bar % 2]);
    const struck = motif.flatMap((on, step) => (on ? [step] : []));
    struck.forEach((step, i) => {
      const beat = bar * metre.beats + swung(step / steps, steps, swing);
      const until = bar * metre.beats + (struck[i + 1] ?? perBar) / steps;
      const startSeconds = at(beat) + 0.011 * human * gaussian(random);
      degree = Math.max(-4, Math.min(6, degree + Math.floor(random() * 5) - 2));
      const tones = [root, third, fifth];
      const low = step === 0 ? root : pick(random, [root, root, fifth, root + 12]);
      const midi =
        role === 'bass' ? low - 12 : 24 + tones[((degree % 3) + 3) % 3] + 12 * Math.floor(degree / 3);
      notes.push({
        startSeconds,
        endSeconds: Math.max(startSeconds + 0.06, at(until) - 0.02),
        midi,
        velocity: velocity(random, step === 0 ? 88 : step % steps === 0 ? 80 : 72),
      });
    });
  });
  return { role, gain: 0.8, notes: endRestruck(notes), tonic };
}

/** The tune from its first bar line, again and again; the upbeat comes each time but the first. */
function tuneLine({ random, at, metre, bars, swing, human }: Scene, tune: Tune): RhythmPart {
  const long = tune.bars * metre.beats;
  const swings = metre.compound ? 0.5 : swing;
  // Everybody joins notes in another way.
  const held = 0.6 + 0.4 * random();
  const accent = 14 * random();
  const shift = 12 * (random() < 0.5 ? -1 : 0);
  const notes: SampledNote[] = [];
  for (let from = 0; from < bars * metre.beats; from += long)
    for (const { startBeats, endBeats, midi } of tune.notes) {
      const start = from + startBeats;
      if (start < 0 || start >= bars * metre.beats) continue;
      const seconds = at(warped(start, swings)) + 0.011 * human * gaussian(random);
      const end = at(warped(Math.min(from + endBeats, bars * metre.beats), swings));
      const strong = start % metre.beats === 0 ? accent : start % 1 === 0 ? accent / 2 : 0;
      notes.push({
        startSeconds: seconds,
        endSeconds: Math.max(seconds + 0.06, seconds + held * (end - seconds) - 0.015),
        midi: midi + shift,
        velocity: velocity(random, 72 + strong),
      });
    }
  return { role: 'melody', gain: 0.8, notes: endRestruck(notes), tonic: tune.tonicClass + 48 };
}

/** Any place in beats where swing puts it, the second half of a beat late. */
function warped(beat: number, swing: number): number {
  const whole = Math.floor(beat + 1e-9);
  const within = beat - whole;
  return whole + (within < 0.5 ? 2 * within * swing : swing + 2 * (within - 0.5) * (1 - swing));
}

/** A key that is struck again ends what it sounded before. */
function endRestruck(notes: SampledNote[]): SampledNote[] {
  const sorted = notes.map((note) => ({ ...note })).sort((a, b) => a.startSeconds - b.startSeconds);
  const last = new Map<number, SampledNote>();
  for (const note of sorted) {
    const before = last.get(note.midi);
    if (before)
      before.endSeconds = Math.min(
        before.endSeconds,
        Math.max(before.startSeconds + 0.01, note.startSeconds - 0.005),
      );
    last.set(note.midi, note);
  }
  return sorted;
}
