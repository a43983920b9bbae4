/**
 * Pitch-synchronous overlap-add (Moulines & Charpentier 1990): pieces of two periods around each pitch mark are laid
 * down again at other distances. The spectral envelope of each piece is untouched, so formants stay. Only stretches
 * that change are made anew; everything else is the recording, sample by sample.
 */
import type { Anchor } from './correction.ts';
import { addRun, readAt } from './fractionalRead.ts';
import type { PitchMarks } from './pitchMarks.ts';

/** A stretch of the output, in samples: copied from the recording, or made anew between copies. */
export interface Patch {
  /** First sample of the output it replaces. */
  start: number;
  /** One array a channel. */
  channels: Float32Array[];
}

export interface RenderPlan {
  marks: PitchMarks;
  /** Semitones for each mark. */
  shiftSemitones: Float64Array;
  anchors: readonly Anchor[];
  /** Deliberate shift of the formants in semitones. */
  formantSemitones?: number;
}

/** Voiced sound that goes on untouched is met again in phase over this time. */
const SYNC_SECONDS = 0.06;
/** Shifts below this are none. */
const MIN_SHIFT = 1e-4;

/** A run of time at one speed, in samples. */
interface Run {
  from: number;
  to: number;
  outFrom: number;
  outTo: number;
}

/**
 * Renders what a plan changes. Patches ascend and do not overlap; outside them the output is the input. With an
 * empty plan there are none.
 */
export function renderPatches(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  plan: RenderPlan,
): Patch[] {
  const length = channels[0]?.length ?? 0;
  const runs = runsOf(plan.anchors, sampleRateHz, length);
  const regions = changedRegions(plan, runs, sampleRateHz, length);
  const patches: Patch[] = [];
  let cursor = 0;
  for (const region of regions) {
    copyMoved(channels, runs, cursor, region.first, plan.marks, patches);
    const made = synthesise(channels, sampleRateHz, plan, runs, region);
    patches.push(made.patch);
    cursor = made.lastMark;
  }
  copyMoved(channels, runs, cursor, plan.marks.positions.length - 1, plan.marks, patches);
  return clip(patches, length);
}

/** The whole output: the recording with its patches laid in. Same length as the input. */
export function applyPatches(channels: readonly Float32Array[], patches: readonly Patch[]): Float32Array[] {
  const out = channels.map((channel) => channel.slice());
  for (const patch of patches) patch.channels.forEach((made, c) => out[c].set(made, patch.start));
  return out;
}

function runsOf(anchors: readonly Anchor[], rate: number, length: number): Run[] {
  const points = [{ from: 0, to: 0 }];
  for (const { fromSeconds, toSeconds } of anchors) {
    const point = { from: Math.round(fromSeconds * rate), to: Math.round(toSeconds * rate) };
    const last = points[points.length - 1];
    if (point.from > last.from && point.to > last.to) points.push(point);
    else if (point.from === 0 && last.from === 0) last.to = point.to;
  }
  const last = points[points.length - 1];
  const rest = Math.max(1, length - last.from);
  points.push({ from: last.from + rest, to: last.to + rest });
  return points.slice(1).map((point, i) => ({
    from: points[i].from,
    to: point.from,
    outFrom: points[i].to,
    outTo: point.to,
  }));
}

const speedOf = (run: Run) => (run.outTo - run.outFrom) / (run.to - run.from);
const isUnit = (run: Run) => run.outTo - run.outFrom === run.to - run.from;

function runAt(runs: readonly Run[], position: number): Run {
  let low = 0;
  let high = runs.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (runs[middle].to <= position) low = middle + 1;
    else high = middle;
  }
  return runs[low];
}

function runAtOut(runs: readonly Run[], position: number): Run {
  let low = 0;
  let high = runs.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (runs[middle].outTo <= position) low = middle + 1;
    else high = middle;
  }
  return runs[low];
}

const outOf = (run: Run, position: number) => run.outFrom + (position - run.from) * speedOf(run);
const inOf = (run: Run, position: number) => run.from + (position - run.outFrom) / speedOf(run);

interface Region {
  /** Indices of marks; both ends are where sound is as it was. */
  first: number;
  last: number;
}

/** Runs of marks that are shifted or stretched, with room on both sides to meet the recording again. */
function changedRegions(
  { marks, shiftSemitones, formantSemitones }: RenderPlan,
  runs: readonly Run[],
  rate: number,
  length: number,
): Region[] {
  const { positions, voiced } = marks;
  const regions: Region[] = [];
  const sync = SYNC_SECONDS * rate;
  const count = positions.length;
  for (let k = 0; k < count; k++) {
    const run = runAt(runs, positions[k]);
    const formant = formantSemitones !== undefined && formantSemitones !== 0 && voiced[k] === 1;
    const changed = Math.abs(shiftSemitones[k]) > MIN_SHIFT || !isUnit(run) || formant;
    if (!changed || positions[k] < 0 || positions[k] >= length) continue;
    let first = Math.max(0, k - 2);
    // The end needs as much room as it takes to come back into phase.
    let last = Math.min(count - 1, k + 2);
    while (last + 1 < count && voiced[last] && positions[last] - positions[k] < sync) last++;
    const open = regions[regions.length - 1];
    if (open && first <= open.last + 2) {
      open.last = Math.max(open.last, last);
    } else {
      while (first > 0 && positions[first] < 0) first++;
      regions.push({ first, last });
    }
  }
  return regions;
}

/** Sound between two regions that lies elsewhere now but is the same. */
function copyMoved(
  channels: readonly Float32Array[],
  runs: readonly Run[],
  fromMark: number,
  toMark: number,
  { positions }: PitchMarks,
  patches: Patch[],
): void {
  const from = fromMark === 0 ? 0 : Math.round(positions[fromMark]);
  const to = Math.round(positions[toMark]);
  for (const run of runs) {
    if (!isUnit(run) || run.outFrom === run.from) continue;
    const a = Math.max(from, run.from);
    const b = Math.min(to, run.to, channels[0].length);
    if (b <= a) continue;
    patches.push({
      start: a + run.outFrom - run.from,
      channels: channels.map((channel) => channel.slice(a, b)),
    });
  }
}

interface Grain {
  mark: number;
  /** Where it is laid, in samples of the output, with a fraction. */
  at: number;
}

function synthesise(
  channels: readonly Float32Array[],
  rate: number,
  plan: RenderPlan,
  runs: readonly Run[],
  region: Region,
): { patch: Patch; lastMark: number } {
  const { positions } = plan.marks;
  const { grains, lastMark } = layGrains(plan, runs, region, rate);
  const first = grains[0];
  const last = grains[grains.length - 1];
  const start = Math.floor(first.at - widthBefore(positions, first.mark));
  const end = Math.ceil(last.at + widthAfter(positions, last.mark));
  const size = end - start + 1;
  const made = channels.map(() => new Float64Array(size));
  const weight = new Float64Array(size);
  const formant = 2 ** ((plan.formantSemitones ?? 0) / 12);
  for (const grain of grains) addGrain(channels, plan.marks, grain, start, made, weight, formant);
  const before = Math.round(first.at - positions[first.mark]);
  const after = Math.round(last.at - positions[last.mark]);
  const out = channels.map((channel, c) => {
    const patch = new Float32Array(size);
    for (let i = 0; i < size; i++) {
      const at = start + i;
      const w = weight[i];
      let value = made[c][i] / Math.max(1, w);
      // The recording on either side fades into the first and out of the last piece.
      if (at < first.at) value += (1 - Math.min(1, w)) * (channel[at - before] ?? 0);
      else if (at > last.at) value += (1 - Math.min(1, w)) * (channel[at - after] ?? 0);
      patch[i] = value;
    }
    return patch;
  });
  return { patch: { start, channels: out }, lastMark };
}

/** Decides which mark sounds when. */
function layGrains(
  { marks, shiftSemitones }: RenderPlan,
  runs: readonly Run[],
  region: Region,
  rate: number,
): { grains: Grain[]; lastMark: number } {
  const { positions, periods, voiced } = marks;
  const wholeOffset = (k: number) => {
    const run = runAt(runs, positions[k]);
    return isUnit(run) ? run.outFrom - run.from : outOf(run, positions[k]) - positions[k];
  };
  const grains: Grain[] = [{ mark: region.first, at: positions[region.first] + wholeOffset(region.first) }];
  const endAt = positions[region.last] + wholeOffset(region.last);
  let { at } = grains[0];
  let mark = region.first;
  for (;;) {
    const next = at + distanceFrom(mark);
    if (next > endAt + periods[region.last] / 2) break;
    at = next;
    const source = inOf(runAtOut(runs, at), at);
    mark = nearestMark(positions, source, mark, region.last);
    grains.push({ mark, at });
  }
  return settle(grains, marks, region, wholeOffset(region.last), rate);

  function distanceFrom(k: number): number {
    if (!voiced[k]) {
      const unshifted = k + 1 < positions.length ? positions[k + 1] - positions[k] : periods[k];
      return unshifted;
    }
    // Untouched periods follow each other exactly as they did.
    if (Math.abs(shiftSemitones[k]) <= MIN_SHIFT && k + 1 < positions.length && voiced[k + 1])
      return positions[k + 1] - positions[k];
    return periods[k] * 2 ** (-shiftSemitones[k] / 12);
  }
}

/**
 * Ends the grains where they meet a mark of the untouched sound best, and moves the last ones so that they meet it
 * exactly.
 */
function settle(
  grains: Grain[],
  { positions, periods, voiced }: PitchMarks,
  region: Region,
  offset: number,
  rate: number,
): { grains: Grain[]; lastMark: number } {
  let best = { error: Infinity, grain: grains.length - 1, mark: region.last };
  const earliest = positions[region.last] - (voiced[region.last] ? (SYNC_SECONDS / 2) * rate : 0);
  for (let k = region.last; k > region.first && positions[k] >= earliest; k--) {
    for (let g = grains.length - 1; g > 0; g--) {
      const error = grains[g].at - positions[k] - offset;
      if (Math.abs(error) < Math.abs(best.error)) best = { error, grain: g, mark: k };
      if (error < -periods[k]) break;
    }
  }
  const kept = grains.slice(0, best.grain + 1);
  const span = SYNC_SECONDS * rate;
  const meets = positions[best.mark] + offset;
  for (let g = kept.length - 1; g > 0; g--) {
    const back = kept[kept.length - 1].at - kept[g].at;
    if (g < kept.length - 1 && back > span) break;
    if (g < kept.length - 1) kept[g] = { ...kept[g], at: kept[g].at - best.error * (1 - back / span) };
  }
  kept[kept.length - 1] = { mark: best.mark, at: meets };
  return { grains: kept, lastMark: best.mark };
}

function nearestMark(positions: Float64Array, position: number, from: number, last: number): number {
  let k = from;
  while (k < last && Math.abs(positions[k + 1] - position) <= Math.abs(positions[k] - position)) k++;
  while (k > 0 && Math.abs(positions[k - 1] - position) < Math.abs(positions[k] - position)) k--;
  return k;
}

const widthBefore = (positions: Float64Array, k: number) =>
  k > 0 ? positions[k] - positions[k - 1] : positions[1] - positions[0];
const widthAfter = (positions: Float64Array, k: number) =>
  k + 1 < positions.length ? positions[k + 1] - positions[k] : widthBefore(positions, k);

/** Lays a piece of two periods, faded in from the mark before and out to the mark after. */
function addGrain(
  channels: readonly Float32Array[],
  { positions, voiced }: PitchMarks,
  { mark, at }: Grain,
  start: number,
  made: Float64Array[],
  weight: Float64Array,
  formant: number,
): void {
  const before = widthBefore(positions, mark);
  const after = widthAfter(positions, mark);
  const rate = voiced[mark] ? formant : 1;
  const first = Math.max(0, Math.ceil(at - before) - start);
  const last = Math.min(weight.length - 1, Math.floor(at + after) - start);
  const count = last - first + 1;
  if (count <= 0) return;
  if (fade.length < count) fade = new Float64Array(count * 2);
  for (let i = 0; i < count; i++) {
    const distance = start + first + i - at;
    const phase = distance < 0 ? -distance / before : distance / after;
    const w = HANN[Math.min(HANN_STEPS, Math.round(phase * HANN_STEPS))];
    fade[i] = w;
    weight[first + i] += w;
  }
  const from = positions[mark] + (start + first - at) * rate;
  for (let c = 0; c < channels.length; c++) {
    if (rate === 1) addRun(channels[c], from, fade, count, made[c], first);
    else for (let i = 0; i < count; i++) made[c][first + i] += fade[i] * readAt(channels[c], from + i * rate);
  }
}

/** Falling half of a Hann window, fine enough that its steps lie 80 dB below the sound. */
const HANN_STEPS = 16384;
const HANN = Float64Array.from(
  { length: HANN_STEPS + 1 },
  (_, i) => 0.5 + 0.5 * Math.cos((Math.PI * i) / HANN_STEPS),
);
/** Fades of the piece at hand, reused. */
let fade = new Float64Array(4096);

/** Cuts off what lies outside the recording's length and lets a later patch have what two would cover. */
function clip(patches: Patch[], length: number): Patch[] {
  return patches.flatMap((patch) => {
    const from = Math.max(0, -patch.start);
    const to = Math.min(patch.channels[0].length, length - patch.start);
    if (to <= from) return [];
    if (from === 0 && to === patch.channels[0].length) return [patch];
    return [
      { start: patch.start + from, channels: patch.channels.map((channel) => channel.subarray(from, to)) },
    ];
  });
}
