/**
 * Chords over beats: the likeliest path through all chords (Viterbi), in which chords stay, change where those of the
 * recording do, and belong to the key rather than not. Each chord of the path is then weighed against all others over
 * its whole length: that gives its confidence and the other readings.
 */
import { degreeOf, mod12, semitonesOf, type Key } from '../../theory/index.ts';
import { changeRates, type Place } from './changeRate.ts';
import type { SpanChroma } from './chroma.ts';
import {
  beatInputs,
  chordLogProbabilities,
  chordOfState,
  NO_CHORD_STATE,
  STATES,
  type ChordWeights,
} from './chordModel.ts';

/** A chord of the path. */
export interface PathChord {
  /** Spans, from the first to before the last. */
  from: number;
  to: number;
  state: number;
}

export interface ChordSpan extends PathChord {
  /** Pitch class of the bass that the chord is named with; undefined: its root. */
  bass: number | undefined;
  /** The note of the chord that is lowest and not its root, named or not; undefined where there is none. */
  otherBass: number | undefined;
  /** The chord stands over a bass that stays, so that `bass` and `otherBass` need not be among its notes. */
  overPedal: boolean;
  /** 0–1. */
  confidence: number;
  /** Other states with their shares, likeliest first. */
  alternatives: { state: number; share: number }[];
}

/** Weight of a beat's evidence against key and changes; 1.4 was best on the tuning arrangements. */
const EVIDENCE_WEIGHT = 1.4;
/** Chances of a chord in a key, relative: of the key, one note beside it, more (common practice, roughly). */
const IN_KEY = 1;
const NEAR_KEY = 0.22;
const OUTSIDE_KEY = 0.06;
const NO_CHORD_ODDS = 0.02;
const ALTERNATIVES = 6;
/** A slash needs a bass that is this sure, and this much surer than the root. */
const MIN_BASS = 0.42;
const BASS_OVER_ROOT = 1.7;
const FIRST_SHARE = 0.5;
/** A bass that lies apart for this share of a chord is an instrument or a hand of its own. */
const MIN_APART = 0.5;

/** Log probabilities of all chords in each span. */
export function chordEvidence(spans: readonly SpanChroma[], weights: ChordWeights): Float64Array[] {
  return spans.map((span) =>
    chordLogProbabilities(beatInputs(span), weights).map((value) => EVIDENCE_WEIGHT * value),
  );
}

/** Log of the chances of all chords in a key; without a key all are alike. */
export function keyPrior(key: Key | null): Float64Array {
  const odds = new Float64Array(STATES);
  for (let state = 0; state < NO_CHORD_STATE; state++) {
    const { root, kind } = chordOfState(state)!;
    const outside = key
      ? kind.degrees.filter((degree) => degreeOf(mod12(root + semitonesOf(degree)), key) === undefined).length
      : 0;
    odds[state] = outside === 0 ? IN_KEY : outside === 1 ? NEAR_KEY : OUTSIDE_KEY;
  }
  odds[NO_CHORD_STATE] = NO_CHORD_ODDS;
  const sum = odds.reduce((all, value) => all + value, 0);
  return odds.map((value) => Math.log(value / sum));
}

/**
 * The likeliest path, each chord weighed against all others.
 * @param prior of each span, by {@link keyPrior}
 * @param places what the start of each span is
 * @param over for each span the bass that stays under other chords, see pedal.ts
 */
export function decodeChords(
  spans: readonly SpanChroma[],
  evidence: readonly Float64Array[],
  prior: (span: number) => Float64Array,
  places: readonly Place[],
  over: readonly (number | undefined)[],
): ChordSpan[] {
  const path = chordPath(evidence, prior, places);
  const basses = bassesOf(spans, path);
  return path.map((chord, i) => {
    const pedal = pedalUnder(over, chord);
    const { other, named } = pedal === undefined ? basses[i] : { other: pedal, named: false };
    return {
      ...chord,
      ...weigh(evidence, prior(chord.from), chord),
      bass: nameable(pedal, spans, chord) ?? (named ? other : undefined),
      otherBass: other,
      overPedal: pedal !== undefined,
    };
  });
}

/** A pedal is named where an instrument or a hand of its own plays it; in a strum it tells the chord, but a player writes none. */
function nameable(
  pedal: number | undefined,
  spans: readonly SpanChroma[],
  chord: PathChord,
): number | undefined {
  return apartOf(spans, chord) >= MIN_APART ? pedal : undefined;
}

/** The bass that stays under most of a chord. */
function pedalUnder(
  over: readonly (number | undefined)[],
  { from, to, state }: PathChord,
): number | undefined {
  const under = over.slice(from, to).filter((bass) => bass !== undefined);
  const root = chordOfState(state)?.root;
  return 2 * under.length > to - from && under[0] !== root ? under[0] : undefined;
}

/** The chords of the likeliest path. */
export function chordPath(
  evidence: readonly Float64Array[],
  prior: (span: number) => Float64Array,
  places: readonly Place[],
): PathChord[] {
  if (evidence.length === 0) return [];
  const path = likeliestPath(evidence, prior, changeRates(evidence, prior, places));
  const found: PathChord[] = [];
  for (let from = 0; from < path.length;) {
    let to = from + 1;
    while (to < path.length && path[to] === path[from]) to++;
    found.push({ from, to, state: path[from] });
    from = to;
  }
  return found;
}

/** The change of a chord does not depend on which one it was, so each step costs as much as there are chords. */
function likeliestPath(
  evidence: readonly Float64Array[],
  prior: (span: number) => Float64Array,
  rates: Float64Array,
): Int32Array {
  const count = evidence.length;
  const cameFrom: Int32Array[] = [];
  let score = evidence[0].map((value, state) => value + prior(0)[state]);
  for (let i = 1; i < count; i++) {
    const stay = Math.log(1 - rates[i]);
    const change = Math.log(rates[i]);
    const own = prior(i);
    let best = 0;
    for (let state = 1; state < STATES; state++) if (score[state] > score[best]) best = state;
    const next = new Float64Array(STATES);
    const from = new Int32Array(STATES);
    for (let state = 0; state < STATES; state++) {
      const stayed = score[state] + stay;
      const changed = score[best] + change + own[state];
      from[state] = stayed >= changed ? state : best;
      next[state] = Math.max(stayed, changed) + evidence[i][state];
    }
    cameFrom.push(from);
    score = next;
  }
  const path = new Int32Array(count);
  let state = 0;
  for (let s = 1; s < STATES; s++) if (score[s] > score[state]) state = s;
  path[count - 1] = state;
  for (let i = count - 1; i > 0; i--) path[i - 1] = state = cameFrom[i - 1][state];
  return path;
}

function weigh(
  evidence: readonly Float64Array[],
  prior: Float64Array,
  { from, to, state }: PathChord,
): Pick<ChordSpan, 'confidence' | 'alternatives'> {
  const scores = Float64Array.from(prior);
  for (let i = from; i < to; i++) for (let s = 0; s < STATES; s++) scores[s] += evidence[i][s];
  let most = -Infinity;
  for (const score of scores) most = Math.max(most, score);
  let sum = 0;
  for (const score of scores) sum += Math.exp(score - most);
  const shareOf = (s: number) => Math.exp(scores[s] - most) / sum;
  const alternatives = likeliestBeside(scores, state).map((s) => ({ state: s, share: shareOf(s) }));
  return { confidence: shareOf(state), alternatives };
}

/** The states with the highest scores but one, the highest first. */
function likeliestBeside(scores: Float64Array, beside: number): number[] {
  const best: number[] = [];
  for (let state = 0; state < STATES; state++) {
    if (state === beside) continue;
    let at = best.length;
    while (at > 0 && scores[best[at - 1]] < scores[state]) at--;
    if (at >= ALTERNATIVES) continue;
    best.splice(at, 0, state);
    if (best.length > ALTERNATIVES) best.pop();
  }
  return best;
}

/** What is lowest in a chord, and whether the chord is named after it: C/E or only C. */
interface Bass {
  /** A note of the chord that is not its root, and surely the lowest; undefined where there is none. */
  other: number | undefined;
  named: boolean;
}

/**
 * The strings a strum happens to begin on name no chord: a player who reads D strums an A below it. A bass is named where an
 * instrument or a hand of its own plays it, or where it is a step of a line: C G/B Am.
 */
function bassesOf(spans: readonly SpanChroma[], path: readonly PathChord[]): Bass[] {
  const heard = path.map((chord) => heardBass(spans, chord));
  return path.map((chord, i) => {
    const other = otherBass(heard[i], chord.state);
    if (other === undefined) return { other, named: false };
    const line = stepOf(lowestOf(heard[i - 1]), other) * stepOf(other, lowestOf(heard[i + 1])) > 0;
    return { other, named: line || apartOf(spans, chord) >= MIN_APART };
  });
}

/** Basses walk while a chord holds; the one it begins with says most. */
function heardBass(spans: readonly SpanChroma[], { from, to }: PathChord): Float32Array {
  const bass = spans[from].bass.map((value) => FIRST_SHARE * value);
  for (let i = from; i < to; i++)
    for (let p = 0; p < 12; p++) bass[p] += ((1 - FIRST_SHARE) * spans[i].bass[p]) / (to - from);
  return bass;
}

function apartOf(spans: readonly SpanChroma[], { from, to }: PathChord): number {
  let sum = 0;
  for (let i = from; i < to; i++) sum += spans[i].bassApart;
  return sum / (to - from);
}

function otherBass(bass: Float32Array, state: number): number | undefined {
  const chord = chordOfState(state);
  if (!chord) return undefined;
  let other: number | undefined;
  for (const degree of chord.kind.degrees) {
    const pitchClass = mod12(chord.root + semitonesOf(degree));
    const surer = bass[pitchClass] >= MIN_BASS && bass[pitchClass] > BASS_OVER_ROOT * bass[chord.root];
    if (surer && (other === undefined || bass[pitchClass] > bass[other])) other = pitchClass;
  }
  return other;
}

function lowestOf(bass: Float32Array | undefined): number | undefined {
  if (!bass) return undefined;
  const lowest = bass.indexOf(Math.max(...bass));
  return bass[lowest] >= MIN_BASS ? lowest : undefined;
}

/** −1 or 1 where a bass steps down or up to another, else 0. */
function stepOf(from: number | undefined, to: number | undefined): number {
  if (from === undefined || to === undefined) return 0;
  const semitones = mod12(to - from);
  return semitones === 1 || semitones === 2 ? 1 : semitones === 10 || semitones === 11 ? -1 : 0;
}
