/**
 * A corrected recording of any length, piece by piece: each piece says which samples of the recording it needs and makes a
 * stretch of the output from them. Cuts lie where nothing changes (between phrases) or where a span begins; only a phrase
 * or span beyond {@link LONGEST_SECONDS} is parted elsewhere.
 */
import type { Contour } from '../reading/index.ts';
import type { Seconds } from '../signal/index.ts';
import type { CorrectedNote } from './correction.ts';
import { planSpans, renderSpans, type StretchSpec, type Span } from './stretchSound.ts';
import type { Patch } from './render.ts';
import { createRetuner, phrasesOf } from './retune.ts';
import type { CorrectionSpec } from './correctionSpec.ts';

export interface CorrectionPiece {
  /** The stretch of the output it makes, in samples of the recording's time. */
  from: number;
  to: number;
  /** The samples of the recording it needs; beyond the ends of the recording there are none. */
  needFrom: number;
  needTo: number;
  /** `channels`: the samples from `needFrom` on. Channels of `to − from` samples. */
  render(channels: readonly Float32Array[]): Float32Array[];
}

export interface Recorded {
  sampleRateHz: number;
  /** Samples of the whole recording. */
  length: number;
}

/** Long enough that cuts are few, short enough that a piece is small. */
const USUAL_SECONDS = 20;
const LONGEST_SECONDS = 60;
/** Around a piece: what a rendering looks at beyond it. */
const MARGIN_SECONDS = 1;
/** Voiced sound is taken whole, so that its periods are found as in the whole recording; up to this much of it. */
const VOICED_SECONDS = 4;
/** Of the neighbours of a piece that are rendered with it, so that seams are made as between any two spans. */
const CONTEXT_SECONDS = 0.5;

/**
 * Pieces of the output from one sample to another, in order and without gaps. `contour`: of the line's reading, needed for
 * notes.
 */
export function planPieces(
  spec: CorrectionSpec | null,
  contour: Contour | undefined,
  recorded: Recorded,
  fromSample: number,
  toSample: number,
): CorrectionPiece[] {
  const to = Math.min(toSample, recorded.length);
  if (!spec) return cutEvenly(fromSample, to, recorded.sampleRateHz).map((cut) => copied(cut));
  if (spec.as === 'stretch') return spanPieces(spec.stretch, recorded, fromSample, to);
  if (!contour) throw new RangeError('planPieces: notes cannot be corrected without their contour.');
  return notePieces(spec, contour, recorded, fromSample, to);
}

interface Cut {
  from: number;
  to: number;
}

function cutEvenly(from: number, to: number, rate: number): Cut[] {
  const cuts: Cut[] = [];
  const step = Math.round(USUAL_SECONDS * rate);
  for (let at = from; at < to; at += step) cuts.push({ from: at, to: Math.min(to, at + step) });
  return cuts;
}

const copied = ({ from, to }: Cut): CorrectionPiece => ({
  from,
  to,
  needFrom: from,
  needTo: to,
  render: (channels) => channels.map((channel) => channel.slice(0, to - from)),
});

/** The recording as it is with patches over it; all in samples from `needFrom` on. */
function laid(
  channels: readonly Float32Array[],
  patches: readonly Patch[],
  from: number,
  to: number,
): Float32Array[] {
  const out = channels.map((channel) => channel.slice(from, to));
  for (const { start, channels: made } of patches) {
    const first = Math.max(0, from - start);
    const last = Math.min(made[0].length, to - start);
    if (last > first)
      made.forEach((channel, c) => out[c].set(channel.subarray(first, last), start + first - from));
  }
  return out;
}

function notePieces(
  { notes, formantSemitones }: Extract<CorrectionSpec, { as: 'notes' }>,
  contour: Contour,
  { sampleRateHz, length }: Recorded,
  fromSample: number,
  toSample: number,
): CorrectionPiece[] {
  const groups = groupsOf(notes);
  const cuts = groups
    .slice(1)
    .map((group, i) => Math.round(cutBetween(groups[i], group) * sampleRateHz))
    .filter((at) => at > fromSample && at < toSample);
  const edges = [fromSample, ...cuts, toSample];
  return edges.slice(1).map((to, i) => {
    const from = edges[i];
    const [fromSeconds, toSeconds] = [from / sampleRateHz, to / sampleRateHz];
    const own = notes.filter((note) => note.endSeconds > fromSeconds && note.startSeconds < toSeconds);
    if (own.length === 0) return copied({ from, to });
    const first = Math.max(0, Math.min(fromSeconds, own[0].startSeconds) - MARGIN_SECONDS);
    const last = Math.max(toSeconds, own[own.length - 1].endSeconds) + MARGIN_SECONDS;
    const firstFrame = unvoicedFrame(contour, Math.floor(first / contour.hopSeconds), -1);
    const lastFrame = unvoicedFrame(contour, Math.ceil(last / contour.hopSeconds), 1);
    const needFrom = Math.round(firstFrame * contour.hopSeconds * sampleRateHz);
    const needTo = Math.min(length, Math.round(lastFrame * contour.hopSeconds * sampleRateHz));
    const startSeconds = needFrom / sampleRateHz;
    return {
      from,
      to,
      needFrom,
      needTo,
      render(channels) {
        const local = {
          hopSeconds: contour.hopSeconds,
          f0Hz: contour.f0Hz.subarray(firstFrame, lastFrame),
          confidence: contour.confidence.subarray(firstFrame, lastFrame),
        };
        const { patches } = createRetuner(channels, sampleRateHz, local).render(
          own.map((note) => earlier(note, startSeconds)),
          { formantSemitones },
        );
        return laid(channels, patches, from - needFrom, to - needFrom);
      },
    };
  });
}

/** Phrases one after the other until they are long enough; a phrase that is too long is parted between notes. */
function groupsOf(notes: readonly CorrectedNote[]): CorrectedNote[][] {
  const groups: CorrectedNote[][] = [];
  for (const phrase of phrasesOf(notes).flatMap(parted)) {
    const open = groups[groups.length - 1];
    const whole = open && phrase[phrase.length - 1].endSeconds - open[0].startSeconds <= USUAL_SECONDS;
    if (whole) open.push(...phrase);
    else groups.push([...phrase]);
  }
  return groups;
}

function parted(phrase: CorrectedNote[]): CorrectedNote[][] {
  if (phrase.length < 2 || phrase[phrase.length - 1].endSeconds - phrase[0].startSeconds <= LONGEST_SECONDS)
    return [phrase];
  // Where the pause is longest and least is moved, in the middle half.
  let best = { at: 1, price: Infinity };
  for (let i = Math.ceil(phrase.length / 4); i <= Math.floor((3 * phrase.length) / 4); i++) {
    const [before, after] = [phrase[i - 1], phrase[i]];
    const moved =
      Math.abs(before.toEndSeconds - before.endSeconds) + Math.abs(after.toStartSeconds - after.startSeconds);
    const price = moved - (after.startSeconds - before.endSeconds);
    if (i > 0 && i < phrase.length && price < best.price) best = { at: i, price };
  }
  return [...parted(phrase.slice(0, best.at)), ...parted(phrase.slice(best.at))];
}

const cutBetween = (before: readonly CorrectedNote[], after: readonly CorrectedNote[]): Seconds =>
  (Math.max(...before.map((note) => note.endSeconds)) + after[0].startSeconds) / 2;

/** The nearest frame without a pitch on the way, within reason. */
function unvoicedFrame({ f0Hz, hopSeconds }: Contour, frame: number, way: 1 | -1): number {
  const reach = Math.round(VOICED_SECONDS / hopSeconds);
  let at = Math.max(0, Math.min(f0Hz.length, frame));
  for (let i = 0; i < reach && at > 0 && at < f0Hz.length && f0Hz[at] > 0; i++) at += way;
  return at;
}

const earlier = (note: CorrectedNote, by: Seconds): CorrectedNote => ({
  ...note,
  startSeconds: note.startSeconds - by,
  endSeconds: note.endSeconds - by,
  toStartSeconds: note.toStartSeconds - by,
  toEndSeconds: note.toEndSeconds - by,
});

function spanPieces(
  spec: StretchSpec,
  { sampleRateHz, length }: Recorded,
  fromSample: number,
  toSample: number,
): CorrectionPiece[] {
  const margin = Math.round(MARGIN_SECONDS * sampleRateHz);
  const context = Math.round(CONTEXT_SECONDS * sampleRateHz);
  const spans = planSpans(spec, sampleRateHz, length).spans.flatMap((span) =>
    cutSpan(span, Math.ceil((span.outTo - span.outFrom) / (LONGEST_SECONDS * sampleRateHz))),
  );
  const groups: Span[][] = [];
  for (const span of spans) {
    const open = groups[groups.length - 1];
    if (open && span.outTo - open[0].outFrom <= USUAL_SECONDS * sampleRateHz) open.push(span);
    else groups.push([span]);
  }
  const pieces = groups.map((group, k): CorrectionPiece => {
    const before = groups.at(k - 1)?.at(-1);
    const after = groups.at(k + 1)?.[0];
    const around = [
      ...(k > 0 && before ? [tailOf(before, context)] : []),
      ...group,
      ...(after ? [headOf(after, context)] : []),
    ];
    const [first, last] = [around[0], around[around.length - 1]];
    const needFrom = Math.max(0, Math.min(first.from, first.outFrom) - margin);
    const needTo = Math.min(length, Math.max(last.to, last.outTo) + margin);
    const [from, to] = [group[0].outFrom, group[group.length - 1].outTo];
    return {
      from,
      to,
      needFrom,
      needTo,
      render(channels) {
        const local = around.map((span) => ({
          from: span.from - needFrom,
          to: span.to - needFrom,
          outFrom: span.outFrom - needFrom,
          outTo: span.outTo - needFrom,
        }));
        return laid(
          channels,
          renderSpans(channels, sampleRateHz, local, spec),
          from - needFrom,
          to - needFrom,
        );
      },
    };
  });
  return withEnds(pieces, fromSample, toSample, sampleRateHz);
}

/** What lies before and behind all spans is as recorded. */
function withEnds(
  pieces: readonly CorrectionPiece[],
  fromSample: number,
  toSample: number,
  rate: number,
): CorrectionPiece[] {
  const first = pieces.at(0)?.from ?? toSample;
  const last = pieces.at(-1)?.to ?? toSample;
  return [
    ...cutEvenly(fromSample, Math.min(first, toSample), rate).map(copied),
    ...pieces.filter(({ from, to }) => to > fromSample && from < toSample),
    ...cutEvenly(Math.max(last, fromSample), toSample, rate).map(copied),
  ];
}

/** A span in so many equal parts. */
function cutSpan(span: Span, parts: number): Span[] {
  if (parts <= 1) return [span];
  const at = (from: number, to: number, i: number) => Math.round(from + ((to - from) * i) / parts);
  return Array.from({ length: parts }, (_, i) => ({
    from: at(span.from, span.to, i),
    to: at(span.from, span.to, i + 1),
    outFrom: at(span.outFrom, span.outTo, i),
    outTo: at(span.outFrom, span.outTo, i + 1),
  }));
}

function tailOf(span: Span, length: number): Span {
  const share = Math.min(1, length / (span.outTo - span.outFrom));
  return {
    ...span,
    from: Math.round(span.to - share * (span.to - span.from)),
    outFrom: Math.round(span.outTo - share * (span.outTo - span.outFrom)),
  };
}

function headOf(span: Span, length: number): Span {
  const share = Math.min(1, length / (span.outTo - span.outFrom));
  return {
    ...span,
    to: Math.round(span.from + share * (span.to - span.from)),
    outTo: Math.round(span.outFrom + share * (span.outTo - span.outFrom)),
  };
}
