/** Snare or tom: which of two drums that resemble each other was struck. */
import type { Seconds } from '../../signal/index.ts';
import type { HitKind } from '../../theory/index.ts';

interface HeardHit {
  seconds: Seconds;
  kind: HitKind;
  /** 0–1 */
  evidence: number;
}

/** Where snare and tom are heard together at so many onsets, and at this share of what there is of the rarer one, it is one of them. */
const CONFUSED_ONSETS = 3;
const CONFUSED_SHARE = 0.6;
/** Where they are now and then, the weaker one needs this share of the other's evidence. */
const NOW_AND_THEN_SHARE = 0.7;
/**
 * Snares have a little of toms and toms of snares, and one stick strikes one of them at a time. Where both are heard together nearly
 * always, all of the recording says which it is.
 * @param apartSeconds hits nearer than this are struck together
 * @param likelyEvidence from here on a hit counts
 */
export function snareOrTom<H extends HeardHit>(
  hits: readonly H[],
  apartSeconds: Seconds,
  likelyEvidence: number,
): H[] {
  const of = (kind: HitKind) => hits.filter((hit) => hit.kind === kind);
  const [snares, toms] = [of('snare'), of('tom')];
  const pairs = snares.flatMap((snare) => {
    const tom = toms.find(({ seconds }) => Math.abs(seconds - snare.seconds) <= apartSeconds);
    return tom ? [{ snare, tom }] : [];
  });
  const likely = (all: readonly H[]) => all.filter(({ evidence }) => evidence >= likelyEvidence).length;
  const rarer = Math.max(1, Math.min(likely(snares), likely(toms)));
  const confused = pairs.length >= CONFUSED_ONSETS && pairs.length >= CONFUSED_SHARE * rarer;
  const more = pairs.reduce((sum, { snare, tom }) => sum + snare.evidence - tom.evidence, 0);
  const gone = new Set(
    pairs.flatMap(({ snare, tom }) => {
      if (confused) return [more > 0 ? tom : snare];
      const [weak, strong] = snare.evidence < tom.evidence ? [snare, tom] : [tom, snare];
      return weak.evidence < NOW_AND_THEN_SHARE * strong.evidence ? [weak] : [];
    }),
  );
  return hits.filter((hit) => !gone.has(hit));
}
