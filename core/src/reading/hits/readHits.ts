/** Reads the hits of a drum or percussive recording, by kind. */
import { clamp, createResampler, quantile, type Hertz, type Seconds } from '../../signal/index.ts';
import { READING_HZ } from '../melodySettings.ts';
import { velocityOfLevel } from '../noteMeasures.ts';
import { HIT_KINDS, type HitKind } from '../../theory/index.ts';
import { strongestBeside, withoutBleed } from './bleed.ts';
import { beliefIn, countOnsets } from './drumsPresent.ts';
import { hitProbabilities } from './hitNetwork.ts';
import { snareOrTom } from './snareOrTom.ts';
import { BANDS, createMelStream, FLOOR_DB, HIT_HOP_SAMPLES, STEP_DB } from './melFrames.ts';

export interface ReadHit {
  seconds: Seconds;
  kind: HitKind;
  velocity: number;
  /** What the network said and the recording bears out, 0–1: sensitivity is a threshold on it. */
  evidence: number;
  /** Share of hits with such evidence that are right, 0–1. */
  confidence: number;
}

export interface HitReader {
  /** Adds mono samples at the rate given; values that are not finite count as silence. */
  push(samples: Float32Array): void;
  /** All hits in order of time, also unlikely ones; see {@link keptHits}. */
  finish(): ReadHit[];
}

/** Changes whenever the same recording could read differently; part of the key of cached readings. */
export const HIT_ALGORITHM_VERSION = 7;
/** A peak is the highest within so many frames on each side: 17 ms. */
const PEAK_FRAMES = 3;
/** Hits of one kind closer than this are one (a sixty-fourth at 120 bpm lasts 31 ms). */
const MIN_SECONDS = 0.03;
/** Below this a peak is not even offered. */
const MIN_PROBABILITY = 0.06;
/** Least evidence at sensitivity 0, 0.5 and 1. */
const THRESHOLDS = [0.6, 0.3, MIN_PROBABILITY];
/** Beside a stronger hit within 25 ms one needs this share of its evidence: attacks have a little of every drum. */
const BESIDE_SHARE = 0.5;
const BESIDE_SECONDS = 0.025;
/** The loudest of so many frames from the hit on gives its level: 46 ms. */
const LEVEL_FRAMES = 8;
/** Of the hits of one drum this quantile counts as its loudest. */
const LOUD_QUANTILE = 0.9;
/** Bands in which a kind is told from what sounds with it: the first and the one after the last. */
const BANDS_OF_KIND: Record<HitKind, [number, number]> = {
  kick: [0, 6],
  snare: [5, 40],
  'closed-hat': [34, BANDS],
  'open-hat': [34, BANDS],
  tom: [1, 14],
  cymbal: [28, BANDS],
  'hand-open': [3, 24],
  'hand-slap': [8, 44],
  shaker: [34, BANDS],
};

export function createHitReader(sampleRateHz: Hertz): HitReader {
  const resampler = createResampler(sampleRateHz, READING_HZ);
  const stream = createMelStream();
  return {
    push(samples) {
      const finite = samples.every(Number.isFinite)
        ? samples
        : samples.map((value) => (Number.isFinite(value) ? value : 0));
      stream.push(resampler.push(finite));
    },
    finish() {
      stream.push(resampler.finish());
      return pickHits(stream.finish());
    },
  };
}

/** Hits that are kept at a sensitivity from 0 (only the surest) to 1 (all). */
export function keptHits(hits: readonly ReadHit[], sensitivity: number): ReadHit[] {
  const s = clamp(sensitivity, 0, 1);
  const [strict, middle, loose] = THRESHOLDS;
  // Exponential between the three known points, which feels even.
  const least = s < 0.5 ? strict * (middle / strict) ** (2 * s) : middle * (loose / middle) ** (2 * s - 1);
  return hits.filter(({ evidence }) => evidence >= least);
}

interface FoundHit extends Pick<ReadHit, 'seconds' | 'kind' | 'evidence'> {
  levelDb: number;
}

function pickHits(frames: Uint8Array): ReadHit[] {
  const probabilities = hitProbabilities(frames);
  const count = frames.length / BANDS;
  let found: FoundHit[] = [];
  HIT_KINDS.forEach((kind, k) => {
    const at = (frame: number) =>
      frame < 0 || frame >= count ? 0 : probabilities[frame * HIT_KINDS.length + k];
    let last = -Infinity;
    for (let frame = 0; frame < count; frame++) {
      const value = at(frame);
      if (value < MIN_PROBABILITY) continue;
      let highest = true;
      for (let d = 1; d <= PEAK_FRAMES; d++)
        if (at(frame - d) >= value || at(frame + d) > value) highest = false;
      if (!highest) continue;
      const bend = at(frame - 1) - 2 * value + at(frame + 1);
      const shift = bend < 0 ? (0.5 * (at(frame - 1) - at(frame + 1))) / bend : 0;
      const seconds = Math.max(0, ((frame + clamp(shift, -0.5, 0.5)) * HIT_HOP_SAMPLES) / READING_HZ);
      if (seconds - last < MIN_SECONDS) continue;
      last = seconds;
      const levelDb = levelOf(frames, count, frame, kind);
      found.push({ seconds, kind, evidence: value, levelDb });
    }
  });
  found.sort((a, b) => a.seconds - b.seconds);
  found = found.filter((hit, i) => hit.evidence >= BESIDE_SHARE * strongestBeside(found, i, BESIDE_SECONDS));
  found = snareOrTom(found, BESIDE_SECONDS, THRESHOLDS[1]);
  found = withoutBleed(inTheirRecording(found), BESIDE_SECONDS, THRESHOLDS[1]);
  if (found.length === 0) return [];
  // Each drum by its own loudest hits: a soft drum may be played hard.
  const loudest = quantile(
    found.map((hit) => hit.levelDb),
    LOUD_QUANTILE,
  );
  const tops = new Map(
    HIT_KINDS.map((kind) => [
      kind,
      quantile(
        found.filter((hit) => hit.kind === kind).map((hit) => hit.levelDb),
        LOUD_QUANTILE,
      ),
    ]),
  );
  return found.map(({ levelDb, ...hit }) => ({
    ...hit,
    confidence: sigmoid(CONFIDENCE_BIAS + CONFIDENCE_SLOPE * hit.evidence),
    velocity: velocityOfLevel(levelDb - tops.get(hit.kind)! + loudest),
  }));
}

/** The evidence of each hit in the light of how much speaks for its drum elsewhere. */
function inTheirRecording(hits: readonly FoundHit[]): FoundHit[] {
  const likely = hits.filter(({ evidence }) => evidence >= THRESHOLDS[1]);
  const onsets = countOnsets(
    likely.map(({ seconds }) => seconds),
    BESIDE_SECONDS,
  );
  const belief = beliefIn(
    hits.map(({ kind, evidence }) => ({ kind, logit: ALONE_BIAS + ALONE_SLOPE * evidence })),
    onsets,
  );
  return hits
    .map((hit) => ({ ...hit, evidence: clamp(hit.evidence + belief.get(hit.kind)! / ALONE_SLOPE, 0, 1) }))
    .filter(({ evidence }) => evidence >= MIN_PROBABILITY);
}

/** How likely a hit is by what the network said alone, in logits; fitted with the close network on 2,446 hits of a kit that was
 * never trained on. Fitted with both (slope 12.7) it doubts less, and more is read that nobody struck. */
const ALONE_BIAS = -4.96;
const ALONE_SLOPE = 9.39;
/** The same in the light of the recording; fitted by bench/src/training/fitHitConfidence.ts. */
const CONFIDENCE_BIAS = -3.56;
const CONFIDENCE_SLOPE = 9.24;

const sigmoid = (x: number) => 1 / (1 + Math.exp(-x));

function levelOf(frames: Uint8Array, count: number, frame: number, kind: HitKind): number {
  const [from, to] = BANDS_OF_KIND[kind];
  let most = 0;
  for (let t = frame; t < Math.min(count, frame + LEVEL_FRAMES); t++) {
    let power = 0;
    for (let band = from; band < to; band++)
      power += 10 ** ((FLOOR_DB + STEP_DB * frames[t * BANDS + band]) / 10);
    most = Math.max(most, power);
  }
  return 10 * Math.log10(most + 1e-12);
}
