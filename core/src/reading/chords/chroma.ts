/**
 * Pitch classes per span of time, from the activations of all keys: how surely each sounds, and how surely each is the
 * lowest. Bass and treble chroma as in Mauch & Dixon 2010, with note probabilities instead of a non-negative fit.
 */
import type { Seconds } from '../../signal/index.ts';
import { KEYS, LOWEST_KEY, type Activations } from '../chordal/index.ts';
import { mod12 } from '../../theory/index.ts';
import { HOP_SECONDS } from '../melodySettings.ts';

export interface SpanChroma {
  /** 0–1 for each pitch class. */
  sounding: Float32Array;
  /** 0–1 for each pitch class: how likely it is in the bass; sums to 1 at most. */
  bass: Float32Array;
  /**
   * Share of the time in which the lowest note lies apart from the others, as that of a bass or of a left hand does: below a
   * guitar's lowest string, or some ten semitones under the next.
   */
  bassApart: number;
  /** The same two without the lowest note. */
  upper: Float32Array;
  upperBass: Float32Array;
}

/** Above this key nothing counts as a bass (C4). */
const HIGHEST_BASS_KEY = 60 - LOWEST_KEY;
/** At the start of a span what sounded before still rings: so much of it is not looked at. */
const RINGING_SHARE = 0.15;
/** The lowest string of a guitar (E2), and the distance from which a lowest note is not one of a close or strummed chord. */
const LOWEST_STRING = 40;
const APART_SEMITONES = 10;
/** From this on, of 255, a key counts as sounding when the two lowest are compared. */
const SURE = 110;
/** What a key must reach to be worth a look, of 255. */
const FAINT = 12;

/** One chroma for each span between neighbouring `boundariesSeconds`. */
export function chromaOf(activations: Activations, boundariesSeconds: readonly Seconds[]): SpanChroma[] {
  const { active, frames } = activations;
  const spans: SpanChroma[] = [];
  for (let i = 0; i + 1 < boundariesSeconds.length; i++) {
    const heard = heardFrom(boundariesSeconds[i], boundariesSeconds[i + 1]);
    const from = Math.max(0, Math.min(frames - 1, Math.round(heard / HOP_SECONDS)));
    const to = Math.max(from + 1, Math.min(frames, Math.round(boundariesSeconds[i + 1] / HOP_SECONDS)));
    spans.push(chromaOfFrames(active, from, to));
  }
  return spans;
}

export interface SoundingNote {
  startSeconds: Seconds;
  endSeconds: Seconds;
  midi: number;
}

/** Places in a span at which the lowest note is looked for. */
const LOOKS = 8;

/** The same from notes that are known: a pitch class sounds for as much of a span as its notes cover. */
export function chromaOfNotes(
  notes: readonly SoundingNote[],
  boundariesSeconds: readonly Seconds[],
): SpanChroma[] {
  return boundariesSeconds.slice(1).map((to, i) => {
    const from = heardFrom(boundariesSeconds[i], to);
    const inside = notes.filter(({ startSeconds, endSeconds }) => startSeconds < to && endSeconds > from);
    const silent = new Float32Array(12).fill(1);
    for (const { startSeconds, endSeconds, midi } of inside) {
      const share = (Math.min(to, endSeconds) - Math.max(from, startSeconds)) / (to - from);
      silent[mod12(Math.round(midi))] *= 1 - Math.min(1, share);
    }
    const bass = new Float32Array(12);
    const upper = new Float32Array(12);
    const upperBass = new Float32Array(12);
    let apart = 0;
    for (let look = 0; look < LOOKS; look++) {
      const at = from + ((look + 0.5) / LOOKS) * (to - from);
      const sounding = inside.filter(({ startSeconds, endSeconds }) => startSeconds <= at && endSeconds > at);
      const lowest = Math.min(...sounding.map(({ midi }) => midi));
      const next = Math.min(...sounding.map(({ midi }) => midi).filter((midi) => midi > lowest));
      if (liesApart(lowest, next)) apart += 1 / LOOKS;
      if (lowest < LOWEST_KEY + HIGHEST_BASS_KEY) bass[mod12(Math.round(lowest))] += 1 / LOOKS;
      const classes = sounding.filter(({ midi }) => midi > lowest).map(({ midi }) => mod12(Math.round(midi)));
      for (const each of new Set(classes)) upper[each] += 1 / LOOKS;
      if (next < Infinity) upperBass[mod12(Math.round(next))] += 1 / LOOKS;
    }
    return { sounding: silent.map((value) => 1 - value), bass, bassApart: apart, upper, upperBass };
  });
}

/** Whether a lowest note is a bass of its own; infinite: there is no such note. */
function liesApart(lowest: number, next: number): boolean {
  return lowest < LOWEST_STRING || (next < Infinity && next - lowest >= APART_SEMITONES);
}

function heardFrom(from: Seconds, to: Seconds): Seconds {
  return from + RINGING_SHARE * (to - from);
}

function chromaOfFrames(active: Uint8Array, from: number, to: number): SpanChroma {
  const mean = new Float32Array(KEYS);
  // What the lowest notes hold of it.
  const low = new Float32Array(KEYS);
  const upperBass = new Float32Array(12);
  const bass = new Float32Array(12);
  let apart = 0;
  for (let frame = from; frame < to; frame++) {
    let free = 1;
    let lowest = Infinity;
    let next = Infinity;
    for (let key = 0; key < KEYS; key++) {
      const value = active[frame * KEYS + key];
      if (value < FAINT) continue;
      const p = value / 255;
      mean[key] += p;
      if (value >= SURE && next === Infinity) {
        if (lowest === Infinity) lowest = key + LOWEST_KEY;
        else next = key + LOWEST_KEY;
      }
      if (key < HIGHEST_BASS_KEY && free > 0.02) {
        bass[(key + LOWEST_KEY) % 12] += free * p;
        free *= 1 - p;
      }
    }
    if (liesApart(lowest, next)) apart++;
    if (lowest < Infinity) low[lowest - LOWEST_KEY] += active[frame * KEYS + lowest - LOWEST_KEY] / 255;
    if (next < Infinity) upperBass[next % 12] += 1 / (to - from);
  }
  const count = to - from;
  return {
    sounding: classesOf(mean, count),
    bass: bass.map((value) => value / count),
    bassApart: apart / count,
    upper: classesOf(
      mean.map((value, key) => value - low[key]),
      count,
    ),
    upperBass,
  };
}

/** How surely each pitch class sounds, from sums over all keys. */
function classesOf(sums: Float32Array, count: number): Float32Array {
  const silent = new Float32Array(12).fill(1);
  for (let key = 0; key < KEYS; key++) silent[(key + LOWEST_KEY) % 12] *= 1 - sums[key] / count;
  return silent.map((value) => 1 - value);
}
