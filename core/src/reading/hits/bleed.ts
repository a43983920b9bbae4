/** What one drum's stroke has of another drum. */
import { quantile, type Seconds } from '../../signal/index.ts';
import type { HitKind } from '../../theory/index.ts';

interface HeardHit {
  seconds: Seconds;
  kind: HitKind;
  /** 0–1 */
  evidence: number;
}

/** Hats, cymbals and shakers are masked by louder drums, so they may show less there; these are not. */
const SKINS: readonly HitKind[] = ['kick', 'snare', 'tom', 'hand-open', 'hand-slap'];
/** What one of these usually shows is this quantile of its hits; beside a stronger hit one needs this share of it. */
const USUAL_QUANTILE = 0.75;
const USUAL_SHARE = 0.65;

/**
 * A drum with a skin that is struck shows as it usually does; what another's stroke has of it shows less. So beside a stronger hit
 * one is left out that is fainter than others of its drum.
 * @param hits in order of time
 * @param besideSeconds hits nearer than this are struck together
 * @param likelyEvidence from here on a hit counts
 */
export function withoutBleed<H extends HeardHit>(
  hits: readonly H[],
  besideSeconds: Seconds,
  likelyEvidence: number,
): H[] {
  const usual = new Map(
    SKINS.map((kind) => {
      const likely = hits.filter((hit) => hit.kind === kind && hit.evidence >= likelyEvidence);
      const evidence = likely.map((hit) => hit.evidence);
      return [kind, quantile(evidence.length > 0 ? evidence : [0], USUAL_QUANTILE)];
    }),
  );
  return hits.filter((hit, i) => {
    const least = USUAL_SHARE * (usual.get(hit.kind) ?? 0);
    return hit.evidence >= least || hit.evidence >= strongestBeside(hits, i, besideSeconds);
  });
}

/** Most evidence among the hits around the one at `index`, itself included; `hits` in order of time. */
export function strongestBeside(hits: readonly HeardHit[], index: number, besideSeconds: Seconds): number {
  const { seconds } = hits[index];
  let most = 0;
  for (let i = index; i >= 0 && seconds - hits[i].seconds <= besideSeconds; i--)
    most = Math.max(most, hits[i].evidence);
  for (let i = index; i < hits.length && hits[i].seconds - seconds <= besideSeconds; i++)
    most = Math.max(most, hits[i].evidence);
  return most;
}
