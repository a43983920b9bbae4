/**
 * Accuracy of melodies and notes by the rules of mir_eval (Raffel et al. 2014), re-implemented:
 *
 * - notes: one-to-one maximum matching of reference and estimate with onsets within 50 ms and pitches within
 *   50 cents; offsets, where asked, within max(50 ms, 20 % of the reference length). Distances in time are
 *   rounded to 0.1 ms and compared with ≤, as its note matching does.
 * - contour: raw pitch accuracy = share of voiced reference frames whose estimate is within 50 cents, and
 *   overall accuracy = share of all frames that are right in voicing and pitch (mir_eval.melody).
 *   A negative estimate is a pitch that is called unvoiced: it counts for raw pitch, and as silence for overall
 *   accuracy. 0 is no pitch. Estimates are resampled to the times of the reference as mir_eval does it.
 */
export interface ScoredNote {
  startSeconds: number;
  endSeconds: number;
  midi: number;
}

export interface Score {
  precision: number;
  recall: number;
  f1: number;
}

export const ONSET_TOLERANCE_SECONDS = 0.05;
export const PITCH_TOLERANCE_CENTS = 50;

export function scoreNotes(reference: ScoredNote[], estimate: ScoredNote[], withOffsets = false): Score {
  const matched = matchNotes(reference, estimate, withOffsets).length;
  const precision = estimate.length > 0 ? matched / estimate.length : 0;
  const recall = reference.length > 0 ? matched / reference.length : 0;
  return {
    precision,
    recall,
    f1: precision + recall > 0 ? (2 * precision * recall) / (precision + recall) : 0,
  };
}

/** Pairs `[reference index, estimate index]` of a maximum matching (augmenting paths, Kuhn 1955). */
export function matchNotes(
  reference: ScoredNote[],
  estimate: ScoredNote[],
  withOffsets = false,
  onsetOnly = false,
): [number, number][] {
  const fits = reference.map((ref) =>
    estimate.flatMap((est, k) => {
      const onset = rounded(Math.abs(ref.startSeconds - est.startSeconds)) <= ONSET_TOLERANCE_SECONDS;
      const pitch = onsetOnly || Math.abs(ref.midi - est.midi) * 100 <= PITCH_TOLERANCE_CENTS;
      const allowed = Math.max(ONSET_TOLERANCE_SECONDS, 0.2 * (ref.endSeconds - ref.startSeconds));
      const offset = !withOffsets || rounded(Math.abs(ref.endSeconds - est.endSeconds)) <= allowed;
      return onset && pitch && offset ? [k] : [];
    }),
  );
  const takenBy = new Map<number, number>();
  const augment = (ref: number, seen: Set<number>): boolean => {
    for (const est of fits[ref]) {
      if (seen.has(est)) continue;
      seen.add(est);
      const holder = takenBy.get(est);
      if (holder === undefined || augment(holder, seen)) {
        takenBy.set(est, ref);
        return true;
      }
    }
    return false;
  };
  reference.forEach((_, ref) => augment(ref, new Set()));
  return [...takenBy].map(([est, ref]) => [ref, est]);
}

export interface ContourScore {
  rawPitch: number;
  overall: number;
  /** Voiced reference frames and all frames, for pooling. */
  voicedFrames: number;
  frames: number;
}

export function scoreContour(
  referenceHz: Float32Array,
  referenceHopSeconds: number,
  estimateHz: ArrayLike<number>,
  estimateHopSeconds: number,
): ContourScore {
  let voicedFrames = 0;
  let pitchRight = 0;
  let allRight = 0;
  for (let i = 0; i < referenceHz.length; i++) {
    const place = (i * referenceHopSeconds) / estimateHopSeconds;
    // mir_eval ends an estimate that is shorter with silence at the very last frame.
    const ended = i === referenceHz.length - 1 && place > estimateHz.length - 1 + 1e-7;
    const estimate = ended ? 0 : estimateAt(estimateHz, place);
    const voiced = referenceHz[i] > 0;
    if (voiced) voicedFrames++;
    const near =
      voiced &&
      estimate !== 0 &&
      Math.abs(1200 * Math.log2(Math.abs(estimate) / referenceHz[i])) <= PITCH_TOLERANCE_CENTS;
    if (near) pitchRight++;
    if (voiced ? near && estimate > 0 : estimate <= 0) allRight++;
  }
  return {
    rawPitch: voicedFrames > 0 ? pitchRight / voicedFrames : 1,
    overall: referenceHz.length > 0 ? allRight / referenceHz.length : 1,
    voicedFrames,
    frames: referenceHz.length,
  };
}

/**
 * Estimate between two frames, as mir_eval resamples: pitch runs evenly in cents, over frames without pitch from the last
 * one that had any; voicing, and whether there is a pitch at all, are those of the frame before. The last frame lasts on.
 */
function estimateAt(hz: ArrayLike<number>, place: number): number {
  // Times that differ by rounding alone are the same.
  const before = Math.floor(place + 1e-7);
  const here = before < hz.length ? hz[before] : (hz[hz.length - 1] ?? 0);
  if (here === 0) return 0;
  // The next frame is held at this one's pitch where it has none.
  const next = before + 1 < hz.length && hz[before + 1] !== 0 ? hz[before + 1] : here;
  const share = Math.max(0, Math.min(1, place - before));
  const pitch = Math.abs(here) * (Math.abs(next) / Math.abs(here)) ** share;
  return Math.sign(here) * pitch;
}

function rounded(seconds: number): number {
  return Math.round(seconds * 10000) / 10000;
}

/**
 * How many notes a user has to put right: those that are missed and those that are too many, where one of each that overlap are
 * one.
 */
export function correctionsNeeded(reference: ScoredNote[], estimate: ScoredNote[]): number {
  const pairs = matchNotes(reference, estimate);
  const found = new Set(pairs.map(([ref]) => ref));
  const right = new Set(pairs.map(([, est]) => est));
  const missed = reference.filter((_, i) => !found.has(i));
  const extra = new Set(estimate.filter((_, i) => !right.has(i)));
  for (const note of missed)
    for (const other of extra)
      if (other.startSeconds < note.endSeconds && note.startSeconds < other.endSeconds) {
        extra.delete(other);
        break;
      }
  return missed.length + extra.size;
}

/** Pearson's correlation; 0 where either does not vary. */
export function correlation(a: readonly number[], b: readonly number[]): number {
  const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
  const [meanA, meanB] = [mean(a), mean(b)];
  let [both, ofA, ofB] = [0, 0, 0];
  a.forEach((value, i) => {
    both += (value - meanA) * (b[i] - meanB);
    ofA += (value - meanA) ** 2;
    ofB += (b[i] - meanB) ** 2;
  });
  return ofA > 0 && ofB > 0 ? both / Math.sqrt(ofA * ofB) : 0;
}
