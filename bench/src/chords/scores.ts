/**
 * Scores of chord readings and beats by the rules of mir_eval 0.7 (Raffel et al. 2014), re-implemented; scores.test.ts
 * holds numbers computed with mir_eval itself.
 *
 * - weighted overlap: the time in which both agree over the time that is compared. `root`: roots are the same. `majmin`:
 *   triads are the same, compared where the reference is major, minor or no chord. `sevenths`: qualities up to the seventh
 *   are the same, compared where the reference is maj, min, 7, maj7, min7 or no chord.
 * - beats: F of matches within 70 ms; beats before second 5 are not left out (mir_eval's `trim_beats` would).
 */
import { bassOf, mod12, pitchClassOf, semitonesOf, type ChordOrNone } from '@plundra/core/theory';

export interface ChordSegment {
  startSeconds: number;
  endSeconds: number;
  chord: ChordOrNone;
}

export interface Overlap {
  /** Seconds that agree, and seconds that are compared. */
  right: number;
  compared: number;
}

export type Comparison = 'root' | 'majmin' | 'sevenths';
const BEAT_TOLERANCE_SECONDS = 0.07;

/** Where the estimate says nothing it says no chord, as mir_eval fills it. */
export function weightedOverlap(
  reference: readonly ChordSegment[],
  estimate: readonly ChordSegment[],
  comparison: Comparison,
): Overlap {
  const result = { right: 0, compared: 0 };
  for (const { seconds, truth, found } of stretches(reference, estimate)) {
    const agreed = compare(truth, found, comparison);
    if (agreed === undefined) continue;
    result.compared += seconds;
    if (agreed) result.right += seconds;
  }
  return result;
}

/** Seconds in which a bass other than the root is played and named, and in which the one named is the one played. */
export interface SlashSeconds {
  played: number;
  named: number;
  right: number;
}

export function slashSeconds(
  reference: readonly ChordSegment[],
  estimate: readonly ChordSegment[],
): SlashSeconds {
  const result = { played: 0, named: 0, right: 0 };
  for (const { seconds, truth, found } of stretches(reference, estimate)) {
    const [played, named] = [slashOf(truth), slashOf(found)];
    if (played !== undefined) result.played += seconds;
    if (named !== undefined) result.named += seconds;
    if (named !== undefined && named === played) result.right += seconds;
  }
  return result;
}

const slashOf = (chord: ChordOrNone) =>
  chord && bassOf(chord) !== pitchClassOf(chord.root) ? bassOf(chord) : undefined;

/** The time that the reference covers, cut wherever either changes. */
function* stretches(
  reference: readonly ChordSegment[],
  estimate: readonly ChordSegment[],
): Generator<{ seconds: number; truth: ChordOrNone; found: ChordOrNone }> {
  const times = new Set<number>();
  for (const { startSeconds, endSeconds } of [...reference, ...estimate])
    times.add(startSeconds).add(endSeconds);
  const sorted = [...times].sort((a, b) => a - b);
  for (let i = 0; i + 1 < sorted.length; i++) {
    const middle = (sorted[i] + sorted[i + 1]) / 2;
    const truth = at(reference, middle);
    if (!truth) continue;
    const found = at(estimate, middle)?.chord ?? null;
    yield { seconds: sorted[i + 1] - sorted[i], truth: truth.chord, found };
  }
}

const at = (segments: readonly ChordSegment[], seconds: number) =>
  segments.find(({ startSeconds, endSeconds }) => seconds >= startSeconds && seconds < endSeconds);

/** Bitmap of twelve semitones over the root; degrees beyond the octave count only where mir_eval's qualities have them. */
function bitmap(chord: NonNullable<ChordOrNone>, upTo: number): number {
  let bits = 0;
  for (const degree of chord.degrees) {
    const number = Number(degree.replace(/[b#]/g, ''));
    if (number > 7) continue;
    const semitones = mod12(semitonesOf(degree));
    if (semitones < upTo) bits |= 1 << semitones;
  }
  return bits;
}

const bits = (...steps: number[]) => steps.reduce((all, step) => all | (1 << step), 0);
const SEVENTHS = [bits(0, 4, 7), bits(0, 3, 7), bits(0, 4, 7, 11), bits(0, 4, 7, 10), bits(0, 3, 7, 10)];
/** mir_eval compares triads by the first eight semitones. */
const TRIAD_SEMITONES = 8;

/** Undefined: the reference is not compared. */
function compare(truth: ChordOrNone, read: ChordOrNone, comparison: Comparison): boolean | undefined {
  if (!truth) return read === null;
  const sameRoot = read !== null && pitchClassOf(truth.root) === pitchClassOf(read.root);
  if (comparison === 'root') return sameRoot;
  const upTo = comparison === 'majmin' ? TRIAD_SEMITONES : 12;
  const truthBits = bitmap(truth, upTo);
  const compared =
    comparison === 'majmin'
      ? [bits(0, 4, 7), bits(0, 3, 7)].includes(truthBits)
      : SEVENTHS.includes(truthBits);
  if (!compared) return undefined;
  return sameRoot && bitmap(read, upTo) === truthBits;
}

/** F of two sorted lists of times, each beat matched once (mir_eval.beat.f_measure, untrimmed). */
export function beatF(reference: readonly number[], estimate: readonly number[]): number {
  if (reference.length === 0 || estimate.length === 0) return 0;
  let matched = 0;
  let i = 0;
  let j = 0;
  while (i < reference.length && j < estimate.length) {
    const off = estimate[j] - reference[i];
    if (Math.abs(off) <= BEAT_TOLERANCE_SECONDS) {
      matched++;
      i++;
      j++;
    } else if (off < 0) j++;
    else i++;
  }
  return (2 * matched) / (reference.length + estimate.length);
}
