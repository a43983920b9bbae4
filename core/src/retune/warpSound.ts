/**
 * The sound of passages at another speed than they were recorded, made of their take as it is corrected. Attacks stay as
 * they were recorded, what lies between them gives way. Any stretch of it can be had by itself: whoever plays asks for what
 * sounds next.
 */
import { keptOnsets } from '../reading/index.ts';
import type { Seconds } from '../signal/index.ts';
import { createOnsetBlocks, type OnsetBlocks } from './onsetBlocks.ts';
import {
  assembleRun,
  movedRuns,
  renderSpan,
  startStretch,
  type Span,
  type StretchedSpan,
} from './stretchSound.ts';
import { heardAt, pointsWithMore, warpedSamples, type WarpPoint, type WarpSpec } from './warp.ts';

/** A span begins this long before its attack, as in stretchSound.ts. */
const LEAD_SECONDS = 0.006;
const SHORTEST_SPAN_SECONDS = 0.03;
/** Of an onset that counts, 0–1: only clear attacks are kept whole. */
const SENSITIVITY = 0.5;
/** A span's beginning shows the end of the one before, which may itself be hardly longer than a fade: looked at this far back. */
const SEAMS_SECONDS = 0.02;
/** A sound that is held for longer than this by the time one begins to listen need not be made from its attack on. */
const LONG_SECONDS = 0.25;
/** Stretched spans that are kept: six minutes of one channel, 64 MB. */
const KEPT_SAMPLES = 2 ** 24;
const KEPT_WINDOWS = 200;

export interface WarpRenderer {
  readonly onsets: OnsetBlocks;
  /**
   * The sound of a passage between two samples of it, the same whichever stretches are asked for.
   * @param fromSample and `toSample`: from the start of the passage, at most `warpedSamples`
   * @param begunSample where one begins to listen. A sound that is held for long by then is stretched from there on, so that
   * it need not be made from its attack on; until the next attack it has other phases than in the whole, which nobody hears
   */
  render(spec: WarpSpec, fromSample: number, toSample: number, begunSample?: number): Float32Array[];
}

interface Plan {
  /** The recording from the first sample of the passage on, as far as there is any. */
  local: Float32Array[];
  runs: Span[][];
}

/**
 * @param channels the whole take as it is corrected
 * @param before the renderer of the same take as it was corrected before, whose measures hold where it sounds the same
 */
export function createWarpRenderer(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  before?: WarpRenderer,
): WarpRenderer {
  const onsets = createOnsetBlocks(channels, sampleRateHz, before?.onsets);
  const plans = new WeakMap<WarpSpec, Plan>();
  /** Of the windows that were planned last: another tempo has the same attacks. */
  const attacks = new Map<string, Seconds[]>();
  const kept = new Map<string, StretchedSpan>();

  const attacksOf = (fromSeconds: Seconds, toSeconds: Seconds): Seconds[] => {
    const key = `${fromSeconds} ${toSeconds}`;
    const known = attacks.get(key);
    if (known) return known;
    const found = keptOnsets(onsets.between(fromSeconds, toSeconds), SENSITIVITY).map((each) => each.seconds);
    if (attacks.size >= KEPT_WINDOWS) attacks.delete(attacks.keys().next().value!);
    attacks.set(key, found);
    return found;
  };

  const planOf = (spec: WarpSpec): Plan => {
    let plan = plans.get(spec);
    if (!plan) plans.set(spec, (plan = planned(channels, sampleRateHz, spec, attacksOf)));
    return plan;
  };

  const stretched = (span: Span, samples: number): Float32Array[] => {
    const key = `${span.from} ${span.to} ${span.outTo - span.outFrom}`;
    const known = kept.get(key);
    if (known) return known.upTo(samples);
    let held = [...kept.values()].reduce((sum, each) => sum + each.heldSamples(), 0);
    for (const [oldest, each] of kept) {
      if (held <= KEPT_SAMPLES) break;
      kept.delete(oldest);
      held -= each.heldSamples();
    }
    const made = startStretch(channels, span, sampleRateHz);
    kept.set(key, made);
    return made.upTo(samples);
  };

  return {
    onsets,
    render(spec, fromSample, toSample, begunSample) {
      const { local, runs: planned } = planOf(spec);
      const runs =
        begunSample === undefined ? planned : begunAt(planned, begunSample, LONG_SECONDS * sampleRateHz);
      const first = firstSample(spec, sampleRateHz);
      const out = local.map((channel) => {
        const own = new Float32Array(toSample - fromSample);
        own.set(channel.subarray(fromSample, toSample));
        return own;
      });
      const back = Math.round(SEAMS_SECONDS * sampleRateHz);
      // What lies before it is not made.
      const begun = ({ outFrom }: Span) => outFrom === begunSample && fromSample >= begunSample;
      for (const run of runs) {
        const runEnd = run[run.length - 1].outTo;
        const from = Math.max(run[0].outFrom, fromSample - back, run.some(begun) ? begunSample! : 0);
        if (runEnd <= fromSample || from >= toSample) continue;
        // Its end fades into the recording, so that is made with what lies just before it.
        const to = runEnd - back < toSample ? runEnd : toSample;
        const piece = (span: Span) => {
          const recorded = { ...span, from: span.from + first, to: span.to + first };
          return spec.how === 'slice'
            ? renderSpan(channels, recorded, sampleRateHz, 'slice')
            : stretched(recorded, to - span.outFrom);
        };
        const made = assembleRun(local, sampleRateHz, run, piece, from, to);
        const skipped = Math.max(0, fromSample - from);
        made.forEach((channel, c) =>
          out[c].set(channel.subarray(skipped, toSample - from), from + skipped - fromSample),
        );
      }
      return out;
    },
  };
}

/** A span in which one begins to listen long after its start is parted there. */
function begunAt(runs: readonly Span[][], begunSample: number, long: number): Span[][] {
  return runs.map((run) => {
    const k = run.findIndex(({ outFrom, outTo }) => outFrom < begunSample - long && begunSample < outTo);
    if (k < 0) return run;
    const { from, to, outFrom, outTo } = run[k];
    const cut = from + Math.round(((begunSample - outFrom) * (to - from)) / (outTo - outFrom));
    if (cut >= to) return run;
    const parts = [
      { from, to: cut, outFrom, outTo: begunSample },
      { from: cut, to, outFrom: begunSample, outTo },
    ];
    return run.toSpliced(k, 1, ...parts);
  });
}

const firstSample = ({ points }: WarpSpec, rate: number) => Math.round(points[0].fromSeconds * rate);

function planned(
  channels: readonly Float32Array[],
  rate: number,
  spec: WarpSpec,
  attacksOf: (fromSeconds: Seconds, toSeconds: Seconds) => Seconds[],
): Plan {
  const points = pointsWithMore(spec);
  const first = firstSample(spec, rate);
  const lastSeconds = points[points.length - 1].fromSeconds;
  const spans = spansOf(attacksOf(first / rate, lastSeconds), points, first, rate);
  const length = Math.max(Math.round(lastSeconds * rate) - first, warpedSamples(spec, rate));
  return {
    local: channels.map((channel) => channel.subarray(first, first + length)),
    runs: movedRuns(spans),
  };
}

/** From attack to attack, and from one change of speed to the next, in samples from the first. */
function spansOf(
  onsets: readonly Seconds[],
  points: readonly WarpPoint[],
  first: number,
  rate: number,
): Span[] {
  const firstSeconds = first / rate;
  const edges = points.map(({ fromSeconds }) => fromSeconds);
  const [start, end] = [edges[0], edges[edges.length - 1]];
  // The attack itself goes where its time goes; what leads up to it keeps its speed.
  const attacks = onsets.map((seconds) => ({
    in: seconds - LEAD_SECONDS,
    out: heardAt(points, seconds) - LEAD_SECONDS,
  }));
  // A change of speed near an attack happens with it.
  const free = edges.filter(
    (edge) =>
      edge === start ||
      edge === end ||
      attacks.every((attack) => Math.abs(attack.in - edge) >= SHORTEST_SPAN_SECONDS),
  );
  const cuts = [...free.map((edge) => ({ in: edge, out: heardAt(points, edge) })), ...attacks]
    .filter((cut) => cut.in >= start && cut.in <= end)
    .sort((a, b) => a.in - b.in);
  const samples = cuts
    .filter(
      (cut, i) => i === 0 || i === cuts.length - 1 || cut.in - cuts[i - 1].in >= SHORTEST_SPAN_SECONDS / 2,
    )
    .map((cut) => ({ in: Math.round((cut.in - firstSeconds) * rate), out: Math.round(cut.out * rate) }));
  return samples
    .slice(1)
    .map((to, i) => ({ from: samples[i].in, to: to.in, outFrom: samples[i].out, outTo: to.out }))
    .filter((span) => span.outTo > span.outFrom && span.to > span.from);
}
