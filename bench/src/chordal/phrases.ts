/**
 * Phrases for guitar and piano, composed here and not by what made the training material: strums with changes of
 * chord, picking that rings on, block chords, a melody over broken chords, arpeggios under the pedal.
 */
import type { Random } from '@plundra/core/signal';

export interface PhraseNote {
  startSeconds: number;
  endSeconds: number;
  midi: number;
  velocity: number;
}

/** Open and barre shapes in standard tuning, low string first; −1 is not struck (common practice). */
const SHAPES = [
  [3, 2, 0, 0, 0, 3],
  [-1, 3, 2, 0, 1, 0],
  [-1, -1, 0, 2, 3, 2],
  [0, 2, 2, 0, 0, 0],
  [-1, 0, 2, 2, 1, 0],
  [-1, 0, 2, 2, 2, 0],
  [0, 2, 2, 1, 0, 0],
  [1, 3, 3, 2, 1, 1],
  [-1, -1, 0, 2, 3, 1],
  [-1, 2, 4, 4, 3, 2],
  [-1, 0, 2, 0, 1, 0],
  [3, 2, 0, 0, 0, 1],
  [-1, 3, 2, 0, 0, 0],
  [5, 7, 7, 6, 5, 5],
];
const OPEN_STRINGS = [40, 45, 50, 55, 59, 64];
/** Progressions in degrees of the major scale. */
const PROGRESSIONS = [
  [0, 5, 3, 4],
  [0, 3, 4, 0],
  [5, 3, 0, 4],
  [1, 4, 0, 5],
];
const MAJOR = [0, 2, 4, 5, 7, 9, 11];

const human = (random: Random, seconds: number) => (random() + random() + random() - 1.5) * seconds;
const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)];
const touch = (random: Random, base: number) =>
  Math.round(Math.min(120, Math.max(30, base + human(random, 20))));

/** Strummed or picked guitar of `seconds`. */
export function guitarPhrase(random: Random, seconds: number): PhraseNote[] {
  const notes: PhraseNote[] = [];
  const beat = 60 / (70 + 60 * random());
  const strummed = random() < 0.5;
  const base = 60 + 40 * random();
  let time = 0.2;
  while (time < seconds - 1) {
    const shape = pick(random, SHAPES);
    const strings = shape.flatMap((fret, i) => (fret < 0 ? [] : [OPEN_STRINGS[i] + fret]));
    if (strummed) {
      const pattern = pick(random, [
        [1, 0, 1, 1, 0, 1, 1, 1],
        [1, 0, 0, 0, 1, 0, 0, 0],
        [1, 0, 1, 0, 1, 0, 1, 0],
      ]);
      const struck = pattern.flatMap((on, i) => (on ? [i] : []));
      struck.forEach((step, i) => {
        const at = time + (step * beat) / 2 + human(random, 0.008);
        const until = time + ((struck[i + 1] ?? 8) * beat) / 2;
        const down = step % 2 === 0;
        const order = down ? strings : [...strings].reverse().slice(0, 4);
        const spread = 0.006 + 0.016 * random();
        order.forEach((midi, k) =>
          notes.push({
            startSeconds: at + k * spread,
            endSeconds: until,
            midi,
            velocity: touch(random, down ? base : base - 10),
          }),
        );
      });
    } else {
      const bass = strings[0];
      const upper = strings.slice(-3);
      const order = [bass, upper[0], upper[1], upper[2], upper[1], upper[0], bass, upper[1]];
      order.forEach((midi, k) =>
        notes.push({
          startSeconds: time + (k * beat) / 2 + human(random, 0.01),
          endSeconds: time + 4 * beat,
          midi,
          velocity: touch(random, base),
        }),
      );
    }
    time += 4 * beat;
  }
  return tidied(notes, seconds);
}

/** Piano of `seconds`: both hands, blocks or pedal. */
export function pianoPhrase(random: Random, seconds: number): PhraseNote[] {
  const notes: PhraseNote[] = [];
  const beat = 60 / (66 + 70 * random());
  const tonic = Math.floor(random() * 12);
  const progression = pick(random, PROGRESSIONS);
  const style = pick(random, ['melody', 'blocks', 'pedal'] as const);
  const base = 55 + 40 * random();
  const scaleNote = (degree: number) => 12 * Math.floor(degree / 7) + MAJOR[((degree % 7) + 7) % 7] + tonic;
  let bar = 0;
  let place = 35;
  for (let time = 0.2; time < seconds - 1; time += 4 * beat, bar++) {
    const root = progression[bar % progression.length];
    const triad = [root, root + 2, root + 4].map((degree) => scaleNote(degree) + 48);
    const add = (step: number, length: number, midi: number, level = base) =>
      notes.push({
        startSeconds: time + step * beat + human(random, 0.01),
        endSeconds: time + (step + length) * beat,
        midi,
        velocity: touch(random, level),
      });
    if (style === 'blocks') {
      for (const step of pick(random, [
        [0, 1, 2, 3],
        [0, 2],
        [0, 1.5, 3],
      ])) {
        for (const midi of triad) add(step, 0.9, midi + 12);
        add(step, 0.9, triad[0] - 12, base - 5);
      }
    } else if (style === 'pedal') {
      const run = [triad[0] - 12, ...triad, ...triad.map((midi) => midi + 12)];
      for (let k = 0; k < 8; k++) add(k / 2, 4 - k / 2, run[k % run.length]);
    } else {
      for (let k = 0; k < 8; k++)
        add(k / 2, 0.6, [triad[0], triad[2], triad[1], triad[2]][k % 4] - 12, base - 12);
      for (let step = 0; step < 4;) {
        const length = pick(random, [0.5, 1, 1, 2]);
        place = Math.min(40, Math.max(31, place + Math.floor(random() * 5) - 2));
        add(step, length * 0.95, scaleNote(place) + 12, base + 8);
        step += length;
      }
    }
  }
  return tidied(notes, seconds);
}

/** The same notes with swells, accents every few strokes, and high or low notes brought out. */
export function enlivened(notes: readonly PhraseNote[], random: Random): PhraseNote[] {
  const swell = 16 * random();
  const swellSeconds = 4 + 12 * random();
  const accent = 18 * random();
  const everySeconds = pick(random, [0.5, 1, 1.5, 2]) * (0.5 + 0.3 * random());
  const tilt = (random() - 0.4) * 0.7;
  const middle = notes.reduce((sum, { midi }) => sum + midi, 0) / Math.max(1, notes.length);
  const accents = new Map<number, number>();
  return notes.map((note) => {
    const stroke = Math.round(note.startSeconds / everySeconds);
    if (!accents.has(stroke)) accents.set(stroke, accent * (random() - 0.5));
    const level =
      note.velocity +
      swell * Math.sin((2 * Math.PI * note.startSeconds) / swellSeconds) +
      accents.get(stroke)! +
      tilt * (note.midi - middle);
    return { ...note, velocity: Math.round(Math.min(124, Math.max(30, level))) };
  });
}

/** The same notes, half of them let go on their own: sooner, or later up to where they are struck again. */
export function loosened(notes: readonly PhraseNote[], random: Random): PhraseNote[] {
  return notes.map((note, i) => {
    if (random() < 0.5) return note;
    const next = notes.slice(i + 1).find(({ midi }) => midi === note.midi);
    const seconds = (note.endSeconds - note.startSeconds) * (0.3 + 1.2 * random());
    return {
      ...note,
      endSeconds: Math.min(
        note.startSeconds + Math.max(0.08, seconds),
        (next?.startSeconds ?? Infinity) - 0.005,
      ),
    };
  });
}

/** In order; what is struck again stops what sounded. */
function tidied(notes: PhraseNote[], seconds: number): PhraseNote[] {
  const kept: PhraseNote[] = [];
  const last = new Map<number, PhraseNote>();
  for (const note of notes.sort((a, b) => a.startSeconds - b.startSeconds)) {
    if (note.startSeconds < 0 || note.startSeconds > seconds - 0.5) continue;
    const before = last.get(note.midi);
    if (before && note.startSeconds - before.startSeconds < 0.06) continue;
    if (before) before.endSeconds = Math.min(before.endSeconds, note.startSeconds - 0.005);
    const placed = { ...note, endSeconds: Math.min(note.endSeconds, seconds) };
    last.set(note.midi, placed);
    kept.push(placed);
  }
  return kept;
}
