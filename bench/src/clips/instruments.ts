/**
 * Clips of sampled single-line instruments, with human timing, vibrato, slides, a room and noise.
 * True onsets and ends are measured on each note rendered alone (−15 dB on the way up and down), because
 * labels must say what sounds, not when a key was pressed.
 */
import { createRandom, type Random } from '@plundra/core/signal';
import { midiToHz } from '@plundra/core/theory';
import { TRUTH_HOP_SECONDS, type Clip } from './clip.ts';
import { composeMelody, type ClipNote } from './melody.ts';
import type { Player } from './players.ts';
import { addNoise, addReverb } from './room.ts';

export interface Instrument {
  name: string;
  lowMidi: number;
  highMidi: number;
  kind: Clip['kind'];
  /** Half width of vibrato in cents; 0 for instruments that have none. */
  vibratoCents: number;
  /** Chance of a slide into a note. */
  slides: number;
}

/** How a melody is played. */
export interface Articulation {
  /** Chance that a note is slurred to the one before: struck or blown once, another pitch. */
  slurs: number;
  /** Beats last so many times as long. */
  slowness: number;
  /** What the player does with the loudness of what sounds, in dB at a time in seconds. */
  swellDb?: (seconds: number) => number;
  sampleRateHz: number;
}

const DETACHED: Articulation = { slurs: 0, slowness: 1, sampleRateHz: 44100 };
const DURATION_SECONDS = 14;
const EDGE_DB = -15;
/** So far from the first note of a slur its sound is still that of the instrument. */
const WIDEST_SLUR_SEMITONES = 7;

export async function instrumentClip(
  player: Player,
  instrument: Instrument,
  seed: number,
  { slurs, slowness, swellDb, sampleRateHz }: Articulation = DETACHED,
): Promise<Clip> {
  const random = createRandom(seed);
  const sustained = instrument.vibratoCents > 0;
  const notes = composeMelody(
    {
      lowMidi: instrument.lowMidi,
      highMidi: instrument.highMidi,
      durationSeconds: DURATION_SECONDS,
      legato: slurs,
      timingSeconds: 0.015,
      shortestBeats: random() < 0.4 ? 0.25 : 0.5,
      slowness,
    },
    random,
  );
  const strokes = slurred(notes);
  const curve = bendCurve(strokes, instrument, random);
  const played = strokes.map((stroke) => ({
    ...stroke[0],
    endSeconds: stroke[stroke.length - 1].endSeconds,
  }));
  const samples = await player.play(played, curve, DURATION_SECONDS, sampleRateHz);
  if (swellDb) {
    for (let i = 0; i < samples.length; i++) samples[i] *= 10 ** (swellDb(i / sampleRateHz) / 20);
  }
  let peak = 1e-9;
  for (const value of samples) peak = Math.max(peak, Math.abs(value));
  for (let i = 0; i < samples.length; i++) samples[i] *= 0.5 / peak;

  const edges = await measureEdges(player, played, sampleRateHz);
  const wet = random() < 0.5 ? 0.08 + 0.22 * random() : 0;
  if (wet > 0) addReverb(samples, sampleRateHz, wet, 0.5 + 1.5 * random());
  addNoise(samples, 28 + 27 * random(), random);

  const trueNotes: Clip['notes'] = [];
  const f0Hz = new Float32Array(Math.ceil(DURATION_SECONDS / TRUTH_HOP_SECONDS));
  strokes.forEach((stroke, s) => {
    const startSeconds = stroke[0].startSeconds + edges[s].attackSeconds;
    const endSeconds = Math.min(
      stroke[0].startSeconds + edges[s].endSeconds,
      strokes[s + 1]?.[0].startSeconds ?? Infinity,
    );
    stroke.forEach((note, k) => {
      const start = k === 0 ? startSeconds : note.startSeconds;
      const end = Math.min(endSeconds, stroke[k + 1]?.startSeconds ?? Infinity);
      // What is pulled off a string that has died away is not heard.
      if (k === 0 || end > start) trueNotes.push({ startSeconds: start, endSeconds: end, midi: note.midi });
    });
    for (let i = Math.ceil(startSeconds / TRUTH_HOP_SECONDS); i * TRUTH_HOP_SECONDS < endSeconds; i++) {
      if (i < f0Hz.length) f0Hz[i] = midiToHz(stroke[0].midi + curve[i]);
    }
  });
  return {
    name: `${instrument.name}${wet > 0 ? ' in a room' : ''}${sustained ? ' vibrato' : ''}`,
    group: 'instrument',
    kind: instrument.kind,
    sampleRateHz,
    samples,
    notes: trueNotes,
    f0Hz,
  };
}

/** Notes by what is struck, bowed or blown once. */
function slurred(notes: ClipNote[]): ClipNote[][] {
  const strokes: ClipNote[][] = [];
  for (const note of notes) {
    const stroke = strokes.at(-1);
    if (stroke && note.legato && Math.abs(note.midi - stroke[0].midi) <= WIDEST_SLUR_SEMITONES)
      stroke.push(note);
    else strokes.push([note]);
  }
  return strokes;
}

/** Semitones from the first note of each stroke: slides into it, vibrato, and the steps to what is slurred to it. */
function bendCurve(strokes: ClipNote[][], instrument: Instrument, random: Random): number[] {
  const curve = new Array<number>(Math.ceil(DURATION_SECONDS / TRUTH_HOP_SECONDS)).fill(0);
  strokes.forEach((stroke, s) => {
    const first = stroke[0];
    const next = strokes[s + 1]?.[0].startSeconds ?? DURATION_SECONDS;
    const steps = stroke.slice(1).map((note, k) => ({
      atSeconds: note.startSeconds,
      semitones: note.midi - stroke[k].midi,
      widthSeconds: 0.02 + 0.06 * random() ** 2,
    }));
    const slide = random() < instrument.slides ? -(1 + random()) : 0;
    const depth = random() < 0.7 ? instrument.vibratoCents * (0.5 + random()) : 0;
    const rateHz = 4.8 + 1.6 * random();
    for (let i = Math.ceil(first.startSeconds / TRUTH_HOP_SECONDS); i * TRUTH_HOP_SECONDS < next; i++) {
      if (i >= curve.length) break;
      const seconds = i * TRUTH_HOP_SECONDS;
      const t = seconds - first.startSeconds;
      const grown = Math.min(1, Math.max(0, (t - 0.2) / 0.25));
      const vibrato = (depth / 100) * grown * Math.sin(2 * Math.PI * rateHz * t);
      curve[i] = vibrato + slide * Math.max(0, 1 - t / 0.09);
      for (const { atSeconds, semitones, widthSeconds } of steps)
        curve[i] += semitones * Math.min(1, Math.max(0, 0.5 + (seconds - atSeconds) / widthSeconds));
    }
  });
  return curve;
}

const edgeCache = new Map<string, { attackSeconds: number; envelope: Float32Array }>();
const ENVELOPE_SECONDS = 0.005;

async function measureEdges(player: Player, notes: ClipNote[], rate: number) {
  const results: { attackSeconds: number; endSeconds: number }[] = [];
  for (const note of notes) {
    const length = Math.round((note.endSeconds - note.startSeconds) * 10) / 10 + 0.05;
    const key = `${player.name}/${note.midi}/${length.toFixed(2)}`;
    let measured = edgeCache.get(key);
    if (!measured) {
      measured = await measureAlone(player, note.midi, length, rate);
      edgeCache.set(key, measured);
    }
    const { envelope } = measured;
    let last = envelope.length - 1;
    const release = Math.floor((note.endSeconds - note.startSeconds) / ENVELOPE_SECONDS);
    const top = Math.max(...envelope);
    const floor = top * 10 ** ((2.4 * EDGE_DB) / 20);
    while (last > 0 && envelope[last] < floor) last--;
    results.push({
      attackSeconds: measured.attackSeconds,
      endSeconds: Math.max(0.05, Math.min(last, release + 0.1 / ENVELOPE_SECONDS) * ENVELOPE_SECONDS),
    });
  }
  return results;
}

async function measureAlone(player: Player, midi: number, lengthSeconds: number, rate: number) {
  const samples = await player.alone(midi, lengthSeconds, rate);
  const size = Math.round(ENVELOPE_SECONDS * rate);
  const envelope = new Float32Array(Math.floor(samples.length / size));
  for (let i = 0; i < envelope.length; i++) {
    let sum = 0;
    for (let k = i * size; k < (i + 1) * size; k++) sum += samples[k] ** 2;
    envelope[i] = Math.sqrt(sum / size);
  }
  let early = 0;
  for (let i = 0; i < Math.min(envelope.length, 60); i++) early = Math.max(early, envelope[i]);
  const attack = envelope.findIndex((value) => value >= early * 10 ** (EDGE_DB / 20));
  return { attackSeconds: Math.max(0, attack) * ENVELOPE_SECONDS, envelope };
}
