/**
 * Passages that are not read note by note: chordal recordings and drums. Onsets are moved and what lies between them
 * gives way. Sustained sounds are stretched there, with each attack laid in as it was recorded; hits are cut apart and
 * their slices moved. A passage can be transposed as a whole.
 */
import { createResampler, type Seconds } from '../signal/index.ts';
import { MIN_STRETCH, MAX_STRETCH } from './correction.ts';
import { startVocoder, vocode } from './phaseVocoder.ts';
import { createGrowing } from './growing.ts';
import type { Patch } from './render.ts';

export interface MovedOnset {
  id: string;
  fromSeconds: Seconds;
  toSeconds: Seconds;
}

export interface StretchSpec {
  /** In order of `fromSeconds`. */
  onsets: readonly MovedOnset[];
  semitones: number;
  /** `slice`: nothing is stretched, for hits. */
  how: 'stretch' | 'slice';
  /** The part of the recording that is placed; nothing outside it changes. */
  fromSeconds: Seconds;
  toSeconds: Seconds;
}

export interface StretchResult {
  patches: Patch[];
  /** Onsets that could not go where they should. */
  limited: string[];
}

/** An attack is taken over from this long before its onset … this long after it. */
const LEAD_SECONDS = 0.006;
const ATTACK_SECONDS = 0.06;
const FADE_SECONDS = 0.004;
/** Slices keep at least this much between them. */
const MIN_SLICE_SECONDS = 0.01;
const MIN_MOVE_SECONDS = 1e-4;
const KEPT_PIECES = 1000;

/** From one attack to the next, in samples: of the recording, and where it comes to lie. */
export interface Span {
  from: number;
  to: number;
  outFrom: number;
  outTo: number;
}

/** Renders what differs from a recording, again and again: pieces between onsets that did not change are kept. */
export function createStretchRenderer(
  channels: readonly Float32Array[],
  sampleRateHz: number,
): (spec: StretchSpec) => StretchResult {
  const kept = new Map<string, Float32Array[]>();
  return (spec) =>
    renderWith(channels, sampleRateHz, spec, (span) => {
      const key = `${spec.how} ${span.from} ${span.to} ${span.outTo - span.outFrom}`;
      const known = kept.get(key);
      if (known) return known;
      const made = renderSpan(channels, span, sampleRateHz, spec.how);
      if (kept.size >= KEPT_PIECES) kept.delete(kept.keys().next().value!);
      kept.set(key, made);
      return made;
    });
}

export function renderStretch(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  spec: StretchSpec,
): StretchResult {
  return renderWith(channels, sampleRateHz, spec);
}

/** A span depends on where it is taken from and how long it becomes, not on where it goes. */
export const renderSpan = (
  channels: readonly Float32Array[],
  span: Span,
  rate: number,
  how: StretchSpec['how'],
) =>
  how === 'slice'
    ? sliced(channels, span, rate)
    : startStretch(channels, span, rate).upTo(span.outTo - span.outFrom);

function renderWith(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  spec: StretchSpec,
  piece?: (span: Span) => Float32Array[],
): StretchResult {
  const { spans, limited } = planSpans(spec, sampleRateHz, channels[0]?.length ?? 0);
  return { patches: renderSpans(channels, sampleRateHz, spans, spec, piece), limited };
}

/** What differs from the recording in spans that follow each other. */
export function renderSpans(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  spans: readonly Span[],
  spec: Pick<StretchSpec, 'semitones' | 'how'>,
  piece: (span: Span) => Float32Array[] = (span) => renderSpan(channels, span, sampleRateHz, spec.how),
): Patch[] {
  if (spans.length === 0) return [];
  if (spec.semitones !== 0) return [transposed(channels, sampleRateHz, spans, spec.semitones)];
  return movedRuns(spans).map((run) => ({
    start: run[0].outFrom,
    channels: assembleRun(channels, sampleRateHz, run, piece),
  }));
}

/**
 * The sound of neighbouring spans that all move, or a stretch of it: what is made of one span depends on those beside it only
 * for a fade.
 * @param from and `to`: samples of the output, from the start of the run to its end unless said. Of a stretch the first
 * three fades may sound otherwise than in the whole
 */
export function assembleRun(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  run: readonly Span[],
  piece: (span: Span) => Float32Array[],
  from = run[0].outFrom,
  to = run[run.length - 1].outTo,
): Float32Array[] {
  const out = channels.map(() => new Float32Array(to - from));
  const chosen = run.filter((span) => span.outTo > from && span.outFrom < to);
  for (const span of chosen) {
    const skipped = Math.max(0, from - span.outFrom);
    piece(span).forEach((channel, c) =>
      out[c].set(
        channel.subarray(skipped, Math.min(span.outTo, to) - span.outFrom),
        span.outFrom + skipped - from,
      ),
    );
  }
  const fade = Math.round(FADE_SECONDS * sampleRateHz);
  if (from === run[0].outFrom) beginFromRecording(channels, out, from, fade);
  smoothSeams(out, from, chosen, fade);
  if (to === run[run.length - 1].outTo) endInRecording(channels, out, from, fade);
  return out;
}

/** Spans of a recording of `length` samples; lengths within what stretching bears. */
export function planSpans(
  spec: StretchSpec,
  rate: number,
  length: number,
): { spans: Span[]; limited: string[] } {
  const { points, limited } = placeOnsets(spec, length / rate);
  const samples = points.map(({ from, to }) => ({
    from: Math.round(from * rate),
    to: Math.round(to * rate),
  }));
  const spans = samples.slice(1).map((point, i) => ({
    from: samples[i].from,
    to: point.from,
    outFrom: samples[i].to,
    outTo: point.to,
  }));
  return { spans: spans.filter((span) => span.outTo > span.outFrom), limited };
}

/** Onsets that could not go where they should, without the sound. */
export const limitedOnsets = (spec: StretchSpec): string[] => placeOnsets(spec, spec.toSeconds).limited;

/** Where attacks are and where they come to lie, with both ends. */
function placeOnsets(
  spec: StretchSpec,
  recordedSeconds: Seconds,
): { points: { from: Seconds; to: Seconds }[]; limited: string[] } {
  const limited: string[] = [];
  const first = Math.max(0, spec.fromSeconds);
  const last = Math.max(first, Math.min(recordedSeconds, spec.toSeconds));
  const inside = spec.onsets.filter(
    ({ fromSeconds }) => fromSeconds - LEAD_SECONDS > first && fromSeconds - LEAD_SECONDS < last,
  );
  const points = [{ from: first, to: first }];
  inside.forEach((onset, i) => {
    const before = points[points.length - 1];
    const from = onset.fromSeconds - LEAD_SECONDS;
    const next = inside[i + 1] ? inside[i + 1].fromSeconds - LEAD_SECONDS : last;
    const shortest = (gap: number) =>
      spec.how === 'slice' ? Math.min(gap, MIN_SLICE_SECONDS) : gap * MIN_STRETCH;
    const longest = (gap: number) => (spec.how === 'slice' ? Infinity : gap * MAX_STRETCH);
    const wanted = onset.toSeconds - LEAD_SECONDS;
    const lowest = before.to + shortest(from - before.from);
    // What comes after must still fit in, and be found again at the end.
    const highest = Math.min(before.to + longest(from - before.from), last - shortest(last - from));
    const nextTo = inside[i + 1] ? inside[i + 1].toSeconds - LEAD_SECONDS : last;
    const held = Math.max(
      lowest,
      Math.min(highest, wanted, Math.max(lowest, nextTo - shortest(next - from))),
    );
    if (Math.abs(held - wanted) > MIN_MOVE_SECONDS) limited.push(onset.id);
    if (from > before.from && held > before.to) points.push({ from, to: held });
  });
  points.push({ from: last, to: last });
  return { points, limited };
}

const isUntouched = (span: Span) => span.from === span.outFrom && span.to === span.outTo;

/** Neighbouring spans that move; between them lies the recording as it is. */
export function movedRuns(spans: readonly Span[]): Span[][] {
  const runs: Span[][] = [];
  let open: Span[] | undefined;
  for (const span of spans) {
    if (isUntouched(span)) open = undefined;
    else if (open) open.push(span);
    else runs.push((open = [span]));
  }
  return runs;
}

/** How much of a piece of `taken` samples keeps its speed when it becomes `length` long; all of it where that is the same. */
export function attackSamples(taken: number, length: number, rate: number): number {
  if (taken === length) return taken;
  return Math.round(Math.min((LEAD_SECONDS + ATTACK_SECONDS) * rate, taken * 0.4, length * 0.4));
}

/** A span that is stretched as far as it is asked for: what has been made is not made again. */
export interface StretchedSpan {
  /** The span from its start on, of which so many samples are made, or more. */
  upTo(samples: number): Float32Array[];
  /** What it takes in memory, in samples. */
  heldSamples(): number;
}

/** What a vocoder that may go on takes. */
const VOCODER_SAMPLES = 2 ** 18;

/** The attack as recorded, the rest stretched; they overlap for a fade. */
export function startStretch(channels: readonly Float32Array[], span: Span, rate: number): StretchedSpan {
  const length = span.outTo - span.outFrom;
  const taken = span.to - span.from;
  if (length === taken) {
    const same = channels.map((channel) => channel.slice(span.from, span.to));
    return { upTo: () => same, heldSamples: () => channels.length * length };
  }
  const attack = attackSamples(taken, length, rate);
  const fade = Math.min(attack, Math.round(FADE_SECONDS * rate));
  const speed = (taken - attack) / (length - attack);
  const restLength = length - attack + fade;
  let vocoder: ReturnType<typeof startVocoder> | undefined = startVocoder(channels, rate, {
    // At normal speed through the fade, so that both sides of it are the same sound.
    inputAt: (output) =>
      output <= fade ? span.from + attack - fade + output : span.from + attack + (output - fade) * speed,
    outputLength: restLength,
  });
  const grown = channels.map((channel) => {
    const own = createGrowing(length);
    own.upTo(attack).set(channel.subarray(span.from, span.from + attack));
    return own;
  });
  /** Of the rest. */
  let made = 0;
  return {
    upTo(samples) {
      const wanted = Math.min(restLength, Math.max(0, samples - attack) + fade);
      const out = grown.map((channel) => channel.upTo(attack - fade + wanted));
      if (!vocoder || wanted <= made) return out;
      const rest = vocoder(wanted);
      out.forEach((channel, c) => {
        channel.set(rest[c].subarray(Math.max(fade, made), wanted), attack + Math.max(0, made - fade));
        for (let i = made; i < fade; i++) {
          const share = (i + 1) / (fade + 1);
          const at = attack - fade + i;
          channel[at] = channel[at] * (1 - share) + rest[c][i] * share;
        }
      });
      made = wanted;
      // What it holds is needed no longer.
      if (made === restLength) vocoder = undefined;
      return out;
    },
    // While the vocoder may go on it holds as much again, and its sums.
    heldSamples: () =>
      channels.length * grown[0].length() * (vocoder ? 3 : 1) + (vocoder ? VOCODER_SAMPLES : 0),
  };
}

/** The slice moved; where it is too short it goes on backwards and fades. */
function sliced(channels: readonly Float32Array[], span: Span, rate: number): Float32Array[] {
  const length = span.outTo - span.outFrom;
  const taken = span.to - span.from;
  const fade = Math.min(Math.round(FADE_SECONDS * rate), taken);
  return channels.map((channel) => {
    const out = new Float32Array(length);
    out.set(channel.subarray(span.from, span.from + Math.min(length, taken)));
    for (let i = taken; i < length; i++) {
      const mirrored = 2 * taken - 1 - i;
      if (mirrored < fade) break;
      out[i] =
        (channel[span.from + mirrored] ?? 0) * Math.max(0, 1 - (i - taken) / Math.max(1, length - taken));
    }
    return out;
  });
}

/** Before the first span the recording was untouched and would have gone on. */
function beginFromRecording(
  channels: readonly Float32Array[],
  out: Float32Array[],
  start: number,
  fade: number,
): void {
  blend(out, 0, fade, (c, i) => channels[c][start + i] ?? 0);
}

/** The end of the last span meets the recording as it is. */
function endInRecording(
  channels: readonly Float32Array[],
  out: Float32Array[],
  start: number,
  fade: number,
): void {
  out.forEach((channel, c) => {
    for (let i = 0; i < Math.min(fade, channel.length); i++) {
      const share = (i + 1) / (fade + 1);
      const at = channel.length - 1 - i;
      channel[at] = channel[at] * share + (channels[c][start + at] ?? 0) * (1 - share);
    }
  });
}

/**
 * Where one span ends and the next begins, the sound that would have gone on is faded under the start of the next, which
 * lies before its attack.
 */
function smoothSeams(out: Float32Array[], start: number, spans: readonly Span[], fade: number): void {
  spans.slice(1).forEach((span, k) => {
    const previous = spans[k];
    const seam = span.outFrom - start;
    if (previous.to !== span.from || previous.outTo - previous.outFrom !== previous.to - previous.from)
      blend(out, seam, fade, (c, i) => mirroredEnd(out[c], seam, i));
  });
}

function blend(
  out: Float32Array[],
  at: number,
  fade: number,
  before: (c: number, i: number) => number,
): void {
  out.forEach((channel, c) => {
    for (let i = 0; i < fade && at + i < channel.length; i++) {
      const share = (i + 1) / (fade + 1);
      channel[at + i] = channel[at + i] * share + before(c, i) * (1 - share);
    }
  });
}

const mirroredEnd = (channel: Float32Array, end: number, i: number) => channel[Math.max(0, end - 1 - i)];

/** Everything by the same interval: stretched by its ratio and read that much faster. */
function transposed(
  channels: readonly Float32Array[],
  rate: number,
  spans: readonly Span[],
  semitones: number,
): Patch {
  const ratio = 2 ** (semitones / 12);
  const start = spans[0]?.outFrom ?? 0;
  const length = (spans[spans.length - 1]?.outTo ?? 0) - start;
  let span = 0;
  const inputAt = (output: number) => {
    const at = start + output / ratio;
    while (span + 1 < spans.length && at >= spans[span].outTo) span++;
    while (span > 0 && at < spans[span].outFrom) span--;
    const { from, to, outFrom, outTo } = spans[span];
    return from + ((at - outFrom) * (to - from)) / (outTo - outFrom);
  };
  const long = vocode(channels, rate, {
    inputAt,
    outputLength: Math.ceil(length * ratio),
    resets: spans.slice(1).map((each) => (each.outFrom - start) * ratio),
  });
  return {
    start,
    channels: long.map((channel) => {
      const resampler = createResampler(rate * ratio, rate);
      const out = new Float32Array(length);
      const made = resampler.push(channel);
      out.set(made.subarray(0, length));
      const rest = resampler.finish();
      out.set(rest.subarray(0, Math.max(0, length - made.length)), Math.min(length, made.length));
      return out;
    }),
  };
}
