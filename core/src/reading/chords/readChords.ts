/**
 * Reads the chords of a recording: beats → pitch classes of each beat from the note activations → chords by a log-linear
 * model and Viterbi → key → chords again, in that key and with bar lines where chords and basses change.
 */
import { clamp, type Seconds } from '../../signal/index.ts';
import { chordOn, mod12, semitonesOf, type ChordOrNone, type Key } from '../../theory/index.ts';
import { KEYS, type Activations } from '../chordal/index.ts';
import { HOP_SECONDS } from '../melodySettings.ts';
import { beatsNear, bpmOf, chooseBars } from '../rhythm/index.ts';
import { mayBeHeardSo, trackBeats } from './beatChoice.ts';
import { evenBars, gridOf, placesOf, type BarLines, type Grid, type KnownBeats } from './beatGrid.ts';
import { beatEvidence, type BeatEvidence } from './beats.ts';
import { chordOfState } from './chordModel.ts';
import { chordWeights } from './chordWeights.ts';
import { chromaOf, chromaOfNotes, type SoundingNote, type SpanChroma } from './chroma.ts';
import {
  chordEvidence,
  chordPath,
  decodeChords,
  keyPrior,
  type ChordSpan,
  type PathChord,
} from './decodeChords.ts';
import { guessKeys, trackKeys, type ChordEvidence, type KeyGuess } from './keyOf.ts';
import { keyOfLoop, type LoopKeyEvidence } from './keyOfLoop.ts';
import { bassesThatStay, withoutPedals } from './pedal.ts';

export interface OtherReading {
  chord: ChordOrNone;
  /** 0–1 */
  score: number;
}

export interface ReadChord {
  startSeconds: Seconds;
  endSeconds: Seconds;
  chord: ChordOrNone;
  /** Share of chords of such evidence that are right, 0–1. */
  confidence: number;
  alternatives: OtherReading[];
  /** How much each pitch class sounds, 0–1. */
  sounding: number[];
}

export interface TempoReading {
  bpm: number;
  beats: Seconds[];
  downbeats: Seconds[];
  beatsPerBar: number;
  /** A beat is a dotted quarter, as in 6/8; of beats that were known it is not said. */
  compound: boolean;
  /** Beats and bars were known. */
  known: boolean;
}

export interface ChordsReading {
  tempo: TempoReading;
  /** Likeliest first; the first is what the chords are spelled in. Empty where there is no harmony. */
  keys: KeyGuess[];
  /** The key from each of these on; more than one where the music changes its key. */
  keyChanges: { startSeconds: Seconds; key: Key }[];
  tuningCents: number;
  chords: ReadChord[];
}

/** Changes whenever the same recording could read differently; part of the key of cached readings. */
export const CHORDS_ALGORITHM_VERSION = 16;

export interface ChordsSettings {
  /** Else they are found. */
  beats?: KnownBeats;
  /** They are taken only where the recording may be heard so; else its own are found. */
  onlyIfHeard?: boolean;
  /** What somebody knows of the tempo where beats are found, 50–200 beats a minute. */
  nearBpm?: number;
}

/** What a beat with twice the usual change says for a bar line, as log odds. */
const CHANGE_ODDS = 2;
/** Where fewer keys surely sound at once, in the mean, there is no harmony to tell beats by: skins and metal leave many faint ones. */
const MIN_SOUNDING = 0.5;
const SURELY = 0.8 * 255;
const KEYS_SHOWN = 3;
const NO_KEY = keyPrior(null);

/**
 * @param samples mono at 22,050 Hz
 * @param activations of the same samples
 */
export function readChords(
  samples: Float32Array,
  activations: Activations,
  settings: ChordsSettings = {},
): ChordsReading {
  return readChordsFrom(beatEvidence(samples, activations), activations, settings);
}

/** The same, with its key where it is a loop: see keyOfLoop.ts. */
export function readChordsOfLoop(
  samples: Float32Array,
  activations: Activations,
  settings: ChordsSettings = {},
): { reading: ChordsReading; key: KeyGuess | undefined } {
  const { keyEvidence, ...reading } = chordsFrom(beatEvidence(samples, activations), activations, settings);
  return { reading, key: keyOfLoop(keyEvidence, activations) };
}

/** The same where the evidence of beats is known. */
export function readChordsFrom(
  heard: BeatEvidence,
  activations: Activations,
  settings: ChordsSettings = {},
): ChordsReading {
  const { keyEvidence: _, ...reading } = chordsFrom(heard, activations, settings);
  return reading;
}

function chordsFrom(
  heard: BeatEvidence,
  activations: Activations,
  settings: ChordsSettings,
): ChordsReading & { keyEvidence: LoopKeyEvidence } {
  const durationSeconds = activations.frames * HOP_SECONDS;
  const { pulse, strength } = heard;
  const { beats: offered, onlyIfHeard = false, nearBpm } = settings;
  const known = offered && (!onlyIfHeard || mayBeHeardSo(heard, offered)) ? offered : undefined;
  // Where hardly anything has a pitch the beat network alone is asked; else its beats are some of those to choose from.
  const harmony = soundingAtOnce(activations) >= MIN_SOUNDING;
  const found = () => (harmony ? trackBeats(heard).seconds : pulse.beats);
  const beats = known?.seconds ?? (nearBpm === undefined ? found() : beatsNear(pulse, nearBpm));
  const grid = gridOf(beats, durationSeconds);
  const spans = chromaOf(activations, grid.boundaries);
  const bars = (blind: readonly PathChord[]): FoundBars => {
    if (known) return { ...known, compound: false };
    const changes = harmony ? changesOn(grid, spans, blind, strength, beats.length) : undefined;
    const { first, beatsPerBar, compound } = chooseBars({ ...pulse, beats, changes });
    return { ...evenBars(first, beatsPerBar, beats.length), compound };
  };
  const { tempo, ...reading } = chordsOver(spans, grid, beats, bars);
  return {
    ...reading,
    tempo: { ...tempo, known: known !== undefined },
    tuningCents: activations.tuningCents,
  };
}

/**
 * Chords and key of notes that are known, over the beats of the song that they stand in.
 * @param beats covering the notes
 */
export function readChordsOfNotes(notes: readonly SoundingNote[], beats: KnownBeats): ChordsReading {
  const end = notes.reduce((most, { endSeconds }) => Math.max(most, endSeconds), 0);
  const grid = gridOf(beats.seconds, end);
  const spans = chromaOfNotes(notes, grid.boundaries);
  const { keyEvidence: _, ...reading } = chordsOver(spans, grid, beats.seconds, () => ({
    ...beats,
    compound: false,
  }));
  return { ...reading, tempo: { ...reading.tempo, known: true }, tuningCents: 0 };
}

interface FoundBars extends BarLines {
  compound: boolean;
}

/** First without key and bar lines, to find both, then with them. */
function chordsOver(
  spans: readonly SpanChroma[],
  grid: Grid,
  beats: readonly Seconds[],
  barsOf: (blind: readonly PathChord[]) => FoundBars,
): Omit<ChordsReading, 'tuningCents' | 'tempo'> & {
  tempo: Omit<TempoReading, 'known'>;
  keyEvidence: LoopKeyEvidence;
} {
  const over = bassesThatStay(spans);
  const evidence = chordEvidence(withoutPedals(spans, over), chordWeights());
  const blind = decodeBlind(evidence);
  const bars = barsOf(blind);
  const forKey = blind.map(evidenceForKey);
  const sounding = forKey.filter((each) => each !== null);
  const inKey = guessKeys(useOf(spans), sounding);
  const keys = sounding.length > 0 ? keysOfSpans(inKey[0].key, blind, forKey) : [];
  const priors = new Map([...new Set(keys)].map((key) => [key, keyPrior(key)]));
  const decoded = decodeChords(
    spans,
    evidence,
    (span) => priors.get(keys[span]) ?? NO_KEY,
    placesOf(grid, bars),
    over,
  );
  return {
    tempo: {
      bpm: bpmOf(beats),
      beats: [...beats],
      downbeats: bars.downbeats.map((i) => beats[i]),
      beatsPerBar: bars.beatsPerBar,
      compound: bars.compound,
    },
    keys: sounding.length > 0 ? inKey.slice(0, KEYS_SHOWN) : [],
    keyChanges: keys.flatMap((key, span) =>
      span === 0 || key !== keys[span - 1] ? [{ startSeconds: grid.boundaries[span], key }] : [],
    ),
    chords: decoded.map((span) => describe(span, grid.boundaries, spans, keys[span.from] ?? null)),
    keyEvidence: { keys: inKey, chords: sounding },
  };
}

/** Chords before key and bar lines are known. */
function decodeBlind(evidence: readonly Float64Array[]): PathChord[] {
  return chordPath(
    evidence,
    () => NO_KEY,
    evidence.map(() => 'unknown'),
  );
}

/** What changes of chords and basses say for a bar line on each beat, where there is harmony. */
export function barChanges(
  { strength }: BeatEvidence,
  activations: Activations,
  beats: readonly Seconds[],
): Float64Array | undefined {
  if (soundingAtOnce(activations) < MIN_SOUNDING) return undefined;
  const grid = gridOf(beats, activations.frames * HOP_SECONDS);
  const spans = chromaOf(activations, grid.boundaries);
  const blind = decodeBlind(chordEvidence(withoutPedals(spans, bassesThatStay(spans)), chordWeights()));
  return changesOn(grid, spans, blind, strength, beats.length);
}

/** What the key is judged by: how much each pitch class sounds, and the chords. */
export function keyEvidence(
  activations: Activations,
  beats: readonly Seconds[],
): { use: Float64Array; chords: ChordEvidence[] } {
  const spans = chromaOf(activations, gridOf(beats, activations.frames * HOP_SECONDS).boundaries);
  const blind = decodeBlind(chordEvidence(withoutPedals(spans, bassesThatStay(spans)), chordWeights()));
  return { use: useOf(spans), chords: blind.map(evidenceForKey).filter((each) => each !== null) };
}

/** How many keys surely sound at once, in the mean over all frames. */
function soundingAtOnce({ active, frames }: Activations): number {
  let sum = 0;
  for (let i = 0; i < frames * KEYS; i++) if (active[i] >= SURELY) sum++;
  return sum / Math.max(1, frames);
}

/**
 * How much chords and basses change on each beat and what starts there, as log odds of a bar line: none in the mean over all
 * beats.
 */
function changesOn(
  { beatOf, boundaries }: Grid,
  spans: readonly SpanChroma[],
  decoded: readonly PathChord[],
  strength: Float32Array,
  beatCount: number,
): Float64Array {
  const weight = new Float64Array(beatCount);
  const starts = new Set(decoded.map(({ from }) => from));
  beatOf.forEach((beat, i) => {
    if (!Number.isInteger(beat) || beat < 0 || beat >= beatCount || i === 0) return;
    let moved = 0;
    for (let p = 0; p < 12; p++) moved += Math.max(0, spans[i].bass[p] - spans[i - 1].bass[p]);
    const frame = Math.round(boundaries[i] / HOP_SECONDS);
    let loud = 0;
    for (let f = Math.max(0, frame - 3); f <= frame + 3 && f < strength.length; f++)
      loud = Math.max(loud, strength[f]);
    weight[beat] = (starts.has(i) ? 1 : 0) + 0.5 * moved + 0.25 * loud;
  });
  const mean = weight.reduce((sum, value) => sum + value, 0) / beatCount;
  return weight.map((value) => (mean > 0 ? CHANGE_ODDS * (value / mean - 1) : 0));
}

function useOf(spans: readonly SpanChroma[]): Float64Array {
  const use = new Float64Array(12);
  for (const { sounding } of spans) sounding.forEach((value, i) => (use[i] += value));
  return use;
}

function evidenceForKey({ state, from, to }: PathChord): ChordEvidence | null {
  const chord = chordOfState(state);
  if (!chord) return null;
  const { root, kind } = chord;
  return {
    root,
    classes: kind.degrees.map((degree) => mod12(root + semitonesOf(degree))),
    minor: kind.degrees.includes('b3'),
    weight: to - from,
  };
}

/** The key of every span; equal keys are the same object. */
function keysOfSpans(
  first: Key,
  chords: readonly PathChord[],
  evidence: readonly (ChordEvidence | null)[],
): Key[] {
  const path = trackKeys(first, evidence);
  return chords.flatMap(({ from, to }, i) => new Array<Key>(to - from).fill(path[i]));
}

function describe(
  span: ChordSpan,
  boundaries: readonly Seconds[],
  spans: readonly SpanChroma[],
  key: Key | null,
): ReadChord {
  const sounding = new Array<number>(12).fill(0);
  for (let i = span.from; i < span.to; i++)
    spans[i].sounding.forEach((value, p) => (sounding[p] += value / (span.to - span.from)));
  return {
    startSeconds: boundaries[span.from],
    endSeconds: boundaries[span.to],
    chord: chordAt(span.state, span.bass, key, span.overPedal),
    confidence: calibrated(span.confidence),
    alternatives: [
      ...otherSpelling(span, key),
      ...span.alternatives.map(({ state, share }) => ({
        chord: chordAt(state, span.bass, key, span.overPedal),
        score: share,
      })),
    ],
    sounding: sounding.map((value) => Number(value.toFixed(3))),
  };
}

/** The same chord with the bass that was heard but not named, or without the one that was. */
function otherSpelling(span: ChordSpan, key: Key | null): { chord: ChordOrNone; score: number }[] {
  if (span.otherBass === undefined || (span.overPedal && span.bass !== undefined)) return [];
  const bass = span.bass === undefined ? span.otherBass : undefined;
  const next = span.alternatives.at(0)?.share ?? 0;
  return [
    { chord: chordAt(span.state, bass, key, span.overPedal), score: Math.max(next, span.confidence / 2) },
  ];
}

/** The chord of a state over a bass, where that is one of its notes or one that stays. */
function chordAt(state: number, bass: number | undefined, key: Key | null, overPedal = false): ChordOrNone {
  const chord = chordOfState(state);
  if (!chord) return null;
  const { root, kind } = chord;
  const own = overPedal || kind.degrees.some((degree) => mod12(root + semitonesOf(degree)) === bass);
  return chordOn(root, kind.degrees, key, own ? bass : root);
}

/** Fitted on tuning arrangements that the model was not fitted on: shares are surer than they are right. */
const CALIBRATION = { slope: 0.33, offset: 0.23 };

function calibrated(share: number): number {
  const p = clamp(share, 1e-4, 1 - 1e-4);
  return 1 / (1 + Math.exp(-(CALIBRATION.slope * Math.log(p / (1 - p)) + CALIBRATION.offset)));
}
