/**
 * Metre and first bar line of beats that were found. A log-linear model over all metres and first beats, fitted by
 * bench/src/training/fitBars.ts: how much speaks for a bar line on each beat that would begin a bar and on the others, how much that varies
 * (what never begins a bar hardly varies), how alike beats are that lie a bar apart, and what is common.
 */
import type { Seconds } from '../../signal/index.ts';
import { logOdds, near, type BeatLikelihood } from './beatNetwork.ts';
import { RHYTHM_BANDS, RHYTHM_HOP_SECONDS, RHYTHM_INPUTS } from './rhythmFeatures.ts';
import weights from './barWeights.json' with { type: 'json' };

/** What is known of a recording whose beats were found. */
export interface BeatsHeard {
  beats: readonly Seconds[];
  /** As rhythmFeatures gives them. */
  features: Float32Array;
  likelihood: BeatLikelihood;
  /** What changes of chords and basses say for a bar line on each beat, as log odds; without it no harmony is known. */
  changes?: Float64Array;
}

export interface Bars {
  beatsPerBar: number;
  /** Index of the first beat that begins a bar. */
  first: number;
  /** Whether a beat falls into three: then it is a dotted quarter. */
  compound: boolean;
}

/** Metres that are looked for. */
export const METRES: readonly Omit<Bars, 'first'>[] = [
  ...[2, 3, 4, 5, 7].map((beatsPerBar) => ({ beatsPerBar, compound: false })),
  ...[2, 3, 4].map((beatsPerBar) => ({ beatsPerBar, compound: true })),
];
/** Every metre with every first beat. */
export const BAR_CHOICES: readonly Bars[] = METRES.flatMap((metre) =>
  Array.from({ length: metre.beatsPerBar }, (_, first) => ({ ...metre, first })),
);

/** Fewer beats tell nothing of bars. */
const FEWEST_BEATS = 5;
/** A beat is looked at in so many parts. */
const PARTS = 12;
/** Sound is looked at in so many ranges, low, middle and high, and for changes of harmony. */
const RANGES = 4;
/** Bands of each range: up to 250 Hz, to 2 kHz, above. */
const RANGE_OF_BAND = [0, 0, 1, 1, 1, 2, 2, 2];
/** Beats so far apart are compared. */
const MOST_APART = 14;
/** What is usual between beats is that of these distances. */
const USUAL_APART = 8;
/** Log tempo is counted from here. */
const MIDDLE_BPM = 104;
/** What a bar line has that no beat of the recording begins. */
const NEVER = -4;
/** Likelihoods this small are as good as none. */
const NEARLY_NONE = 0.02;
/** Where everything is as it is elsewhere, nothing stands out. */
const LEAST_SPREAD = 1e-3;

export function chooseBars(heard: BeatsHeard): Bars {
  if (heard.beats.length < FEWEST_BEATS) return { beatsPerBar: 4, first: 0, compound: false };
  const scores = barInputs(heard).map((inputs) =>
    inputs.reduce((sum, input, i) => sum + weights[i] * input, 0),
  );
  return BAR_CHOICES[scores.indexOf(Math.max(...scores))];
}

/** What the model looks at, for each of {@link BAR_CHOICES}. */
export function barInputs(heard: BeatsHeard): number[][] {
  const { beats, likelihood, changes } = heard;
  const count = beats.length;
  const odds = downbeatOdds(beats, likelihood);
  const sounding = soundOfBeats(heard);
  const strengths = strengthsOf(sounding);
  const apart = likeness(sounding);
  const usual = mean(apart.slice(1, USUAL_APART + 1));
  const threes = mean(beats.map((seconds) => logOdds(likelihood.compound[frameOf(seconds)] ?? 0, 1e-4)));
  const divided = division(beats, likelihood.beat);
  const x = Math.log2((60 * (count - 1)) / (beats[count - 1] - beats[0]) / MIDDLE_BPM);
  return BAR_CHOICES.map(({ beatsPerBar, first, compound }) => {
    const begins = (i: number) => (((i - first) % beatsPerBar) + beatsPerBar) % beatsPerBar === 0;
    const inMiddle = (i: number) =>
      beatsPerBar === 4 && (((i - first) % beatsPerBar) + beatsPerBar) % beatsPerBar === 2;
    const split = (values: Float64Array) => ({
      on: spreadOf(values.filter((_, i) => begins(i))),
      off: spreadOf(values.filter((_, i) => !begins(i))),
    });
    const own = split(odds);
    const middle = odds.filter((_, i) => inMiddle(i));
    const fit = mean(odds.map((each, i) => -Math.log1p(Math.exp(begins(i) ? -each : each))));
    const parts = strengths.map(split);
    const harmony = changes && split(changes);
    const alike = (distance: number) => apart[distance] ?? usual;
    return [
      ...METRES.slice(1).map((each) =>
        Number(each.beatsPerBar === beatsPerBar && each.compound === compound),
      ),
      fit,
      (fit * Math.sqrt(count)) / 4,
      own.on.mean,
      own.off.mean,
      middle.length > 0 ? mean(middle) : own.off.mean,
      -own.on.deviation,
      -own.off.deviation,
      ...parts.flatMap(({ on, off }) => [on.mean, -on.deviation, -off.deviation]),
      alike(beatsPerBar) - usual,
      alike(2 * beatsPerBar) - usual,
      beatsPerBar === 4 ? alike(4) - alike(2) : 0,
      alike(beatsPerBar) - Math.max(beatsPerBar > 2 ? alike(beatsPerBar - 1) : 0, alike(beatsPerBar + 1)),
      compound ? threes : 0,
      compound ? divided : 0,
      ...tempoOfMetre(x, beatsPerBar, compound),
      ...(harmony
        ? [harmony.on.mean, harmony.off.mean, -harmony.on.deviation, -harmony.off.deviation]
        : [0, 0, 0, 0]),
    ];
  });
}

/** How fast a beat is depends on the metre. */
function tempoOfMetre(x: number, beatsPerBar: number, compound: boolean): number[] {
  const is = (beats: number, threes: boolean) => Number(beatsPerBar === beats && compound === threes);
  const threes = Number(compound);
  return [
    x * is(3, false),
    x * x * is(3, false),
    x * threes,
    x * x * threes,
    x * is(2, false),
    x * Number(beatsPerBar >= 5),
    x * is(4, true),
  ];
}

/** How strongly the network finds that each beat begins a bar, as log odds. */
function downbeatOdds(beats: readonly Seconds[], { downbeat }: BeatLikelihood): Float64Array {
  return Float64Array.from(beats, (seconds) => {
    const middle = frameOf(seconds);
    let most = 0;
    for (let t = middle - 2; t <= middle + 2; t++) most = Math.max(most, downbeat[t] ?? 0);
    return logOdds(most, 0.02);
  });
}

/** For each beat {@link PARTS} × {@link RANGES}: what rises most there. The first part lies around the beat itself. */
function soundOfBeats({ beats, features }: BeatsHeard): Float64Array[] {
  const frames = features.length / RHYTHM_INPUTS;
  return beats.map((seconds, i) => {
    const next = beats[i + 1] ?? 2 * seconds - beats[i - 1];
    const out = new Float64Array(PARTS * RANGES);
    const frameAt = (part: number) =>
      Math.round((seconds + (part / PARTS) * (next - seconds)) / RHYTHM_HOP_SECONDS);
    for (let part = 0; part < PARTS; part++) {
      const from = frameAt(part - 0.5);
      const to = Math.max(from + 1, frameAt(part + 0.5));
      for (let t = Math.max(0, from); t < to && t < frames; t++) {
        const rises = [0, 0, 0, features[t * RHYTHM_INPUTS + 2 * RHYTHM_BANDS]];
        for (let band = 0; band < RHYTHM_BANDS; band++)
          rises[RANGE_OF_BAND[band]] += features[t * RHYTHM_INPUTS + RHYTHM_BANDS + band];
        rises.forEach((rise, k) => {
          out[part * RANGES + k] = Math.max(out[part * RANGES + k], rise);
        });
      }
    }
    return out;
  });
}

/** Of each beat, beside the others: low sound, change of harmony, and all sound on it, and how much comes after it. */
function strengthsOf(sounding: readonly Float64Array[]): Float64Array[] {
  const at = (beat: Float64Array, part: number, range: number) => beat[part * RANGES + range];
  const all = (beat: Float64Array, part: number) => at(beat, part, 0) + at(beat, part, 1) + at(beat, part, 2);
  const ways = [
    (beat: Float64Array) => at(beat, 0, 0),
    (beat: Float64Array) => Math.max(at(beat, PARTS - 1, 3), at(beat, 0, 3), at(beat, 1, 3)),
    (beat: Float64Array) => all(beat, 0),
    (beat: Float64Array) => {
      let sum = 0;
      for (let part = 1; part < PARTS; part++) sum += all(beat, part);
      return sum;
    },
  ];
  return ways.map((way) => {
    const values = Float64Array.from(sounding, way);
    const { mean: middle, deviation } = spreadOf(values);
    return values.map((value) => (value - middle) / (deviation + LEAST_SPREAD));
  });
}

/** Mean likeness (cosine, the mean beat taken off) of beats so many apart; none where there are no two. */
function likeness(sounding: readonly Float64Array[]): (number | undefined)[] {
  const size = PARTS * RANGES;
  const middle = new Float64Array(size);
  for (const beat of sounding) beat.forEach((value, i) => (middle[i] += value / sounding.length));
  const rows = sounding.map((beat) => {
    const row = beat.map((value, i) => value - middle[i]);
    const length = Math.hypot(...row) + 1e-6;
    return row.map((value) => value / length);
  });
  const apart: (number | undefined)[] = [undefined];
  for (let distance = 1; distance <= MOST_APART && distance < rows.length - 1; distance++) {
    let sum = 0;
    for (let i = 0; i + distance < rows.length; i++)
      for (let k = 0; k < size; k++) sum += rows[i][k] * rows[i + distance][k];
    apart.push(sum / (rows.length - distance));
  }
  return apart;
}

/** What sounds at the thirds of beats (at both, unlike in swing) beside their halves, as a logarithm. */
function division(beats: readonly Seconds[], beat: Float32Array): number {
  const at = (share: number) => {
    const most = beats.slice(1).map((next, i) => near(beat, beats[i] + share * (next - beats[i])));
    return mean(most);
  };
  const thirds = Math.min(at(1 / 3), at(2 / 3));
  return Math.log((thirds + NEARLY_NONE) / (at(1 / 2) + NEARLY_NONE));
}

function frameOf(seconds: Seconds): number {
  return Math.round(seconds / RHYTHM_HOP_SECONDS);
}

/** Of none, what never begins a bar has. */
function spreadOf(values: Float64Array): { mean: number; deviation: number } {
  if (values.length === 0) return { mean: NEVER, deviation: 0 };
  const middle = mean(values);
  return { mean: middle, deviation: Math.sqrt(mean(values.map((value) => (value - middle) ** 2))) };
}

function mean(values: ArrayLike<number | undefined>): number {
  let [sum, count] = [0, 0];
  for (let i = 0; i < values.length; i++) {
    const value = values[i];
    if (value === undefined) continue;
    sum += value;
    count++;
  }
  return count > 0 ? sum / count : 0;
}
