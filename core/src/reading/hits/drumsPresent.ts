/**
 * Which drums a recording has at all: a kind that little speaks for over the whole recording is doubted at each of its
 * hits, one that is struck all the time is believed. Expectation and maximisation of the share of each kind, from that of
 * the clips that confidence was fitted on (Saerens, Latinne & Decaestecker 2002, "Adjusting the outputs of a classifier to
 * new a priori probabilities").
 */
import { clamp, type Seconds } from '../../signal/index.ts';
import { HIT_KINDS, type HitKind } from '../../theory/index.ts';

/** Share of the onsets of those clips that belong to one kind, averaged over all kinds. */
const USUAL_SHARE = 0.1;
/** Weight of the prior, in onsets of the recording. */
const USUAL_ONSETS = 2;
const MAX_SHARE = 0.95;
const ROUNDS = 5;
/** The largest change of a logit, either way. */
const MAX_DOUBTED = 4;
const MAX_BELIEVED = 1;

/**
 * @param hits with the logit of how likely each is, by itself
 * @param onsets of the recording, whatever is struck at them
 * @returns what is to be added to the logit of every hit of a kind
 */
export function beliefIn(
  hits: readonly { kind: HitKind; logit: number }[],
  onsets: number,
): Map<HitKind, number> {
  return new Map(
    HIT_KINDS.map((kind) => {
      const own = hits.filter((hit) => hit.kind === kind);
      let belief = 0;
      for (let round = 0; round < ROUNDS; round++) {
        const expected = own.reduce((sum, { logit }) => sum + 1 / (1 + Math.exp(-logit - belief)), 0);
        const share = (expected + USUAL_ONSETS * USUAL_SHARE) / (onsets + USUAL_ONSETS);
        belief = clamp(
          logitOf(Math.min(MAX_SHARE, share)) - logitOf(USUAL_SHARE),
          -MAX_DOUBTED,
          MAX_BELIEVED,
        );
      }
      return [kind, belief];
    }),
  );
}

/** Times that lie further apart than `apartSeconds`; `seconds` in order. */
export function countOnsets(seconds: readonly Seconds[], apartSeconds: Seconds): number {
  let [count, last] = [0, -Infinity];
  for (const each of seconds) {
    if (each - last <= apartSeconds) continue;
    count++;
    last = each;
  }
  return count;
}

function logitOf(share: number): number {
  return Math.log(share / (1 - share));
}
