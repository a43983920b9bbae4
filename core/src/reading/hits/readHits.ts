/** Reads the hits of a drum or percussive recording, by kind. */
import { clamp, createResampler, quantile, type Hertz, type Seconds } from '../../signal/index.ts';
import { READING_HZ } from '../melodySettings.ts';
import { velocityOfLevel } from '../noteMeasures.ts';
import { HIT_KINDS, type HitKind } from '../../theory/index.ts';
import { hitConfidence } from './hitConfidence.ts';
import { loudestDb } from './hitLevels.ts';
import { hitProbabilities } from './hitNetwork.ts';
import { drumsOfStrokes } from './kitNetwork.ts';
import { BANDS, createMelStream, FLOOR_DB, STEP_DB } from './melFrames.ts';
import { findStrokes, MIN_PROBABILITY, strokeInputs } from './strokes.ts';

export interface ReadHit {
  seconds: Seconds;
  kind: HitKind;
  velocity: number;
  /** How likely this drum is struck, or, for the likeliest drum of a stroke, that any is; 0–1: sensitivity is a threshold on it. */
  evidence: number;
  /** How often drums that were as likely were struck, 0–1. */
  confidence: number;
  /** How much the sound of that moment alone is like that of any drum, 0–1: the same for all hits of a stroke. */
  attack: number;
}

export interface HitReader {
  /** Adds mono samples at the rate given; values that are not finite count as silence. */
  push(samples: Float32Array): void;
  /** All hits in order of time, also unlikely ones; see {@link keptHits}. */
  finish(): ReadHit[];
}

/** Changes whenever the same recording could read differently; part of the key of cached readings. */
export const HIT_ALGORITHM_VERSION = 9;
/** Hits of one kind closer than this are one (a sixty-fourth at 120 bpm lasts 31 ms). */
const MIN_SECONDS = 0.03;
/** Least evidence at sensitivity 0, 0.5 and 1. */
const THRESHOLDS = [0.8, 0.5, MIN_PROBABILITY];
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

interface FoundHit extends Omit<ReadHit, 'velocity'> {
  levelDb: number;
}

function pickHits(frames: Uint8Array): ReadHit[] {
  const probabilities = hitProbabilities(frames);
  const strokes = findStrokes(probabilities);
  const likely = drumsOfStrokes(strokeInputs(frames, loudestDb(frames), probabilities, strokes));
  const offered = strokes.flatMap(({ frame, attack, seconds }, i) => {
    const own = likely.subarray(i * HIT_KINDS.length, (i + 1) * HIT_KINDS.length);
    const likeliest = own.indexOf(Math.max(...own));
    // That something is struck is surer than what.
    const something = 1 - own.reduce((none, probability) => none * (1 - probability), 1);
    return HIT_KINDS.flatMap((kind, k): FoundHit[] => {
      const evidence = k === likeliest ? something : own[k];
      if (evidence < MIN_PROBABILITY) return [];
      const levelDb = levelOf(frames, frame, kind);
      const confidence = hitConfidence(own[k]);
      return [{ seconds: seconds[k], kind, evidence, confidence, attack, levelDb }];
    });
  });
  const found = struckOnce(offered.sort((a, b) => a.seconds - b.seconds));
  if (found.length === 0) return [];
  // Each drum by its own loudest hits: a soft drum may be played hard.
  const loudest = loudOf(found);
  const tops = new Map(HIT_KINDS.map((kind) => [kind, loudOf(found.filter((hit) => hit.kind === kind))]));
  return found.map(({ levelDb, ...hit }) => ({
    ...hit,
    velocity: velocityOfLevel(levelDb - tops.get(hit.kind)! + loudest),
  }));
}

/** Level of the loudest of some hits; what is no more than bleed counts where there is nothing else. */
function loudOf(hits: readonly FoundHit[]): number {
  const likely = hits.filter(({ evidence }) => evidence >= THRESHOLDS[1]);
  const levels = (likely.length > 0 ? likely : hits).map(({ levelDb }) => levelDb);
  return quantile(levels, LOUD_QUANTILE);
}

/** Of two hits of one drum that are nearer than any drummer strikes the fainter is none. @param hits in order of time */
function struckOnce(hits: readonly FoundHit[]): FoundHit[] {
  const last = new Map<HitKind, FoundHit>();
  const none = new Set<FoundHit>();
  for (const hit of hits) {
    const before = last.get(hit.kind);
    const twice = before && hit.seconds - before.seconds < MIN_SECONDS;
    if (twice) none.add(before.evidence < hit.evidence ? before : hit);
    if (!twice || before.evidence < hit.evidence) last.set(hit.kind, hit);
  }
  return hits.filter((hit) => !none.has(hit));
}

function levelOf(frames: Uint8Array, frame: number, kind: HitKind): number {
  const count = frames.length / BANDS;
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
