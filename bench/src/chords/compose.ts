/**
 * Short arrangements with known chords, beats and key, as songwriters play them: guitar alone, keys alone, with a bass,
 * with drums and a melody whose notes are not all of the chord; in 4/4, 3/4 and 6/8.
 */
import { createRandom, type Random } from '@plundra/core/signal';
import {
  bassOf,
  keyOn,
  mod12,
  pitchClassesOf,
  scaleSteps,
  tonicPitchClass,
  voiceChord,
  type Chord,
  type Key,
} from '@plundra/core/theory';
import type { SampledNote } from '@plundra/demo';
import { chance, pick, progression, type Manner, type Span } from './progression.ts';

export const ENSEMBLES = ['guitar', 'keys', 'guitar and bass', 'keys and bass', 'band'] as const;
export type Ensemble = (typeof ENSEMBLES)[number];

export interface LabelledChord {
  startSeconds: number;
  endSeconds: number;
  chord: Chord;
}

export interface ArrangedPart {
  /** Which instruments of a bank may play it. */
  role: 'guitar' | 'keys' | 'bass' | 'melody' | 'drums';
  gain: number;
  notes: SampledNote[];
}

export interface Arrangement {
  ensemble: Ensemble;
  metre: '4/4' | '3/4' | '6/8';
  key: Key;
  durationSeconds: number;
  beats: number[];
  downbeats: number[];
  chords: LabelledChord[];
  parts: ArrangedPart[];
}

/** Beats a minute (common practice, from memory); in 6/8 of the dotted quarter. */
const TEMPI = { '4/4': [66, 150], '3/4': [80, 180], '6/8': [48, 84] } as const;

/** One arrangement of about `seconds`; everything follows from the seed. */
export function compose(ensemble: Ensemble, seed: number, seconds: number, manner: Manner): Arrangement {
  const random = createRandom(seed);
  const metre = pick(random, ['4/4', '4/4', '4/4', '3/4', '6/8'] as const);
  const beatsInBar = metre === '4/4' ? 4 : metre === '3/4' ? 3 : 2;
  const [slowest, fastest] = TEMPI[metre];
  const bpm = slowest + (fastest - slowest) * random();
  const beatSeconds = 60 / bpm;
  const tonic = Math.floor(random() * 12);
  const key: Key = keyOn(tonic, chance(random, 0.65) ? 'major' : 'minor');
  const bars = Math.max(4, Math.floor((seconds - 0.6) / (beatSeconds * beatsInBar)));
  const start = 0.2 + 0.3 * random();
  const beatCount = bars * beatsInBar;
  // A player's tempo wanders by a percent or so.
  const beats = [start];
  let drift = 1;
  for (let beat = 0; beat < beatCount; beat++) {
    drift = 1 + 0.9 * (drift - 1) + 0.006 * (random() - 0.5);
    beats.push(beats[beat] + beatSeconds * drift);
  }
  const at = (beat: number) => {
    const whole = Math.min(beatCount - 1, Math.floor(beat));
    return beats[whole] + (beat - whole) * (beats[whole + 1] - beats[whole]);
  };
  const spans = progression(random, key, bars, beatsInBar, manner);
  const chords = spans.map(({ from, to, chord }) => ({
    startSeconds: at(from),
    endSeconds: at(to),
    chord,
  }));
  const scene: Scene = { random, at, spans, beatsInBar, compound: metre === '6/8', key, manner };
  const parts: ArrangedPart[] = [];
  if (ensemble.startsWith('guitar')) parts.push(guitar(scene, 1));
  else if (ensemble.startsWith('keys')) parts.push(keys(scene, 1, ensemble === 'keys'));
  else {
    parts.push(chance(random, 0.5) ? guitar(scene, 1) : keys(scene, 1, false));
    parts.push(melody(scene, 0.8), drums(scene, 0.6 + 0.5 * random()));
  }
  if (ensemble !== 'guitar' && ensemble !== 'keys') parts.push(bass(scene, 0.9));
  return {
    ensemble,
    metre,
    key,
    durationSeconds: beats[beatCount] + 0.5,
    beats: beats.slice(0, beatCount),
    downbeats: beats.slice(0, beatCount).filter((_, i) => i % beatsInBar === 0),
    chords,
    parts,
  };
}

interface Scene {
  random: Random;
  at: (beat: number) => number;
  spans: Span[];
  beatsInBar: number;
  compound: boolean;
  key: Key;
  manner: Manner;
}

function touch(random: Random, middle: number): number {
  return Math.round(Math.max(25, Math.min(124, middle + 16 * (random() - 0.5))));
}

function late(random: Random, seconds = 0.012): number {
  return seconds * (random() - 0.5) * 1.6;
}

function guitar({ random, at, spans, compound }: Scene, gain: number): ArrangedPart {
  const notes: SampledNote[] = [];
  const strums = chance(random, 0.6);
  const step = compound ? 1 / 3 : chance(random, 0.5) ? 0.5 : 1;
  const hits = Array.from({ length: 32 }, () => chance(random, 0.8));
  let shape: number[] = [];
  for (const { from, to, chord } of spans) {
    shape = voiceChord(chord, { voicing: 'guitar' }, shape);
    // Fuller shapes ring on the low strings too; thin ones leave some out.
    const played = chance(random, 0.3) && shape.length > 4 ? shape.slice(-4) : shape;
    const low = played.includes(shape[0]) ? played : [shape[0], ...played];
    for (let beat = from; beat < to - 1e-6; beat += step) {
      const index = Math.round(beat / step) % 32;
      const first = Math.abs(beat - from) < 1e-6;
      if (!first && !hits[index]) continue;
      const up = Math.abs(beat % 1) > 0.01;
      if (strums) {
        const order = up ? [...low].reverse().slice(0, 4) : low;
        const spread = 0.006 + 0.018 * random();
        order.forEach((midi, i) =>
          notes.push({
            startSeconds: at(beat) + late(random) + i * spread,
            endSeconds: at(Math.min(to, beat + (first ? 2 : 1) * step * 1.9)),
            midi,
            velocity: touch(random, up ? 66 : 84),
          }),
        );
      } else {
        const string = first ? 0 : 1 + ((index * 2) % (low.length - 1 || 1));
        notes.push({
          startSeconds: at(beat) + late(random),
          endSeconds: at(to),
          midi: low[string % low.length],
          velocity: touch(random, 80),
        });
        if (first || chance(random, 0.25))
          notes.push({
            startSeconds: at(beat) + late(random),
            endSeconds: at(to),
            midi: low[low.length - 1],
            velocity: touch(random, 78),
          });
      }
    }
    // Every string is heard once when a chord is picked.
    if (!strums)
      low.forEach((midi, i) =>
        notes.push({
          startSeconds: at(Math.min(to - 0.1, from + ((i + 1) * Math.min(2, to - from)) / (low.length + 1))),
          endSeconds: at(to),
          midi,
          velocity: touch(random, 70),
        }),
      );
  }
  return { role: 'guitar', gain, notes: endRestruck(notes) };
}

function keys({ random, at, spans, compound }: Scene, gain: number, alone: boolean): ArrangedPart {
  const notes: SampledNote[] = [];
  const style = pick(random, ['held', 'beats', 'broken'] as const);
  const voicing = pick(random, ['close', 'open', 'drop2'] as const);
  const withBass = alone || chance(random, 0.5);
  let upper: number[] = [];
  for (const { from, to, chord } of spans) {
    const both = voiceChord(chord, { voicing, withBass }, upper);
    upper = both;
    const strike = (beat: number, until: number, list: number[], velocity: number) =>
      list.forEach((midi) =>
        notes.push({
          startSeconds: at(beat) + Math.abs(late(random)),
          endSeconds: at(until) - 0.02,
          midi,
          velocity: touch(random, velocity),
        }),
      );
    if (style === 'held') {
      strike(from, to, both, 78);
      // Alone, the left hand keeps the beat; a chord held for a bar would not tell where it is.
      if (alone) for (let beat = from + 1; beat < to - 1e-6; beat++) strike(beat, to, both.slice(0, 1), 70);
    } else if (style === 'beats') {
      const step = compound ? 1 : 1;
      for (let beat = from; beat < to - 1e-6; beat += step)
        strike(
          beat,
          Math.min(to, beat + step * 0.9),
          beat === from ? both : withBass ? both.slice(1) : both,
          beat === from ? 84 : 70,
        );
    } else {
      const step = compound ? 1 / 3 : 0.5;
      let i = 0;
      for (let beat = from; beat < to - 1e-6; beat += step, i++) {
        const order = [...both, ...both.slice(1, -1).reverse()];
        strike(beat, to, [order[i % order.length]], 76);
      }
    }
  }
  return { role: 'keys', gain, notes: endRestruck(notes) };
}

function bass({ random, at, spans, key, manner }: Scene, gain: number): ArrangedPart {
  const notes: SampledNote[] = [];
  const busy = random();
  spans.forEach(({ from, to, chord }, index) => {
    const low = 28 + mod12(bassOf(chord) - 28);
    const next = spans[index + 1]?.chord;
    const step = busy < 0.4 ? to - from : 1;
    for (let beat = from; beat < to - 1e-6; beat += step) {
      let midi = low;
      if (beat > from && chance(random, 0.35))
        midi = 28 + mod12(pitchClassesOf(chord)[chord.degrees.length > 2 ? 2 : 0] - 28);
      // A step of the scale leads to the next root.
      if (next && beat + step >= to - 1e-6 && beat > from && chance(random, 0.3)) {
        const goal = 28 + mod12(bassOf(next) - 28);
        midi =
          [goal - 2, goal - 1, goal + 2].find((each) =>
            scaleSteps(key).includes(mod12(each - tonicPitchClass(key))),
          ) ?? midi;
      }
      notes.push({
        startSeconds: at(beat) + late(random),
        endSeconds: at(Math.min(to, beat + step * 0.95)),
        midi: manner === 'pedal' ? low : midi,
        velocity: touch(random, 90),
      });
    }
  });
  return { role: 'bass', gain, notes };
}

function melody({ random, at, spans, key }: Scene, gain: number): ArrangedPart {
  const notes: SampledNote[] = [];
  const scale = Array.from({ length: 30 }, (_, i) => 55 + i).filter((midi) =>
    scaleSteps(key).includes(mod12(midi - tonicPitchClass(key))),
  );
  let place = Math.floor(scale.length / 2);
  const end = spans[spans.length - 1].to;
  for (let beat = 0; beat < end - 0.5;) {
    const length = pick(random, [0.5, 0.5, 1, 1, 1.5, 2]);
    place = Math.max(0, Math.min(scale.length - 1, place + Math.floor(random() * 5) - 2));
    const chord = spans.find((span) => beat >= span.from && beat < span.to)!.chord;
    let midi = scale[place];
    // On strong beats mostly a note of the chord.
    if (length >= 1 && chance(random, 0.6)) {
      const classes = pitchClassesOf(chord);
      for (let off = 0; off < 4; off++)
        if (classes.includes(mod12(midi + off))) {
          midi += off;
          break;
        }
    }
    if (chance(random, 0.85))
      notes.push({
        startSeconds: at(beat) + late(random, 0.02),
        endSeconds: at(Math.min(end, beat + length * 0.95)),
        midi,
        velocity: touch(random, 88),
      });
    beat += length;
  }
  return { role: 'melody', gain, notes };
}

function drums({ random, at, spans, beatsInBar, compound }: Scene, gain: number): ArrangedPart {
  const notes: SampledNote[] = [];
  const end = spans[spans.length - 1].to;
  const hit = (beat: number, midi: number, velocity: number) =>
    notes.push({
      startSeconds: at(beat) + late(random, 0.006),
      endSeconds: at(beat) + 0.1,
      midi,
      velocity: touch(random, velocity),
    });
  const step = compound ? 1 / 3 : 0.5;
  for (let bar = 0; bar < end; bar += beatsInBar) {
    hit(bar, 36, 100);
    if (beatsInBar === 4) {
      hit(bar + 2, 36, 92);
      hit(bar + 1, 38, 96);
      hit(bar + 3, 38, 96);
      if (chance(random, 0.4)) hit(bar + 2.5, 36, 80);
    } else if (beatsInBar === 2) hit(bar + 1, 38, 96);
    else {
      hit(bar + 1, 38, 70);
      hit(bar + 2, 38, 70);
    }
    for (let beat = 0; beat < beatsInBar - 1e-6; beat += step) hit(bar + beat, 42, beat % 1 === 0 ? 80 : 62);
  }
  return { role: 'drums', gain, notes: notes.filter(({ startSeconds }) => startSeconds < at(end)) };
}

/** A string or key that is struck again ends its earlier note. */
function endRestruck(notes: SampledNote[]): SampledNote[] {
  const sorted = [...notes].sort((a, b) => a.startSeconds - b.startSeconds);
  const last = new Map<number, SampledNote>();
  for (const note of sorted) {
    const before = last.get(note.midi);
    if (before && before.endSeconds > note.startSeconds - 0.01)
      before.endSeconds = Math.max(before.startSeconds + 0.02, note.startSeconds - 0.01);
    last.set(note.midi, note);
  }
  return sorted;
}
