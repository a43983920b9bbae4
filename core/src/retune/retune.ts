/** A recording of a single line, ready to be corrected again and again: what does not change is measured once. */
import type { Contour } from '../reading/index.ts';
import type { Seconds } from '../signal/index.ts';
import { isPitchChanged, isTimeChanged, planTime, type CorrectedNote } from './correction.ts';
import { createPitchMarker } from './pitchMarks.ts';
import { planPitch } from './pitchPlan.ts';
import { renderPatches, type Patch } from './render.ts';

export interface RetuneResult {
  /** In order; they do not overlap. */
  patches: Patch[];
  /** Notes that could not be given the place or length that was asked. */
  limited: string[];
}

export interface Retuner {
  /** Renders what differs from the recording. Notes in order of their start. */
  render(notes: readonly CorrectedNote[], options?: { formantSemitones?: number }): RetuneResult;
  /** Measures ahead what rendering these notes would need. */
  prepare(fromSeconds: Seconds, toSeconds: Seconds): void;
}

const LEVEL_SECONDS = 0.005;
/** Notes further apart than this are rendered on their own, so that a change touches only its phrase. */
const PHRASE_GAP_SECONDS = 0.3;
/** Room around a phrase. */
const MARGIN_SECONDS = 0.14;
const KEPT_PHRASES = 200;

export function createRetuner(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  contour: Contour,
): Retuner {
  const mono = mixDown(channels);
  const levels = blockLevels(mono, Math.round(LEVEL_SECONDS * sampleRateHz));
  const marker = createPitchMarker(mono, sampleRateHz, contour);
  const rendered = new Map<string, RetuneResult>();

  const renderPhrase = (phrase: readonly CorrectedNote[], formantSemitones: number): RetuneResult => {
    const key = JSON.stringify([phrase, formantSemitones]);
    const known = rendered.get(key);
    if (known) return known;
    const first = Math.min(phrase[0].startSeconds, phrase[0].toStartSeconds);
    const from = Math.max(0, first - MARGIN_SECONDS);
    const { anchors, limited } = planTime(phrase, (a, b) => quietest(levels, a, b), from);
    const end = Math.max(phrase[phrase.length - 1].endSeconds, anchors.at(-1)?.fromSeconds ?? 0);
    const marks = marker.between(
      Math.floor(from * sampleRateHz),
      Math.min(mono.length, Math.ceil((end + MARGIN_SECONDS) * sampleRateHz)),
    );
    const shiftSemitones = planPitch(phrase, marks, sampleRateHz);
    const result = {
      patches: renderPatches(channels, sampleRateHz, { marks, shiftSemitones, anchors, formantSemitones }),
      limited,
    };
    if (rendered.size >= KEPT_PHRASES) rendered.delete(rendered.keys().next().value!);
    rendered.set(key, result);
    return result;
  };

  return {
    render(notes, { formantSemitones = 0 } = {}) {
      const results = phrasesOf(notes)
        .filter((phrase) => formantSemitones !== 0 || phrase.some(isChanged))
        .map((phrase) => renderPhrase(phrase, formantSemitones));
      return {
        patches: results.flatMap((result) => result.patches),
        limited: results.flatMap((result) => result.limited),
      };
    },
    prepare: (fromSeconds, toSeconds) =>
      void marker.between(Math.floor(fromSeconds * sampleRateHz), Math.ceil(toSeconds * sampleRateHz)),
  };
}

const isChanged = (note: CorrectedNote) => isPitchChanged(note) || isTimeChanged(note);

/** Notes in groups with silence between them in which nothing moves. */
export function phrasesOf(notes: readonly CorrectedNote[]): CorrectedNote[][] {
  const phrases: CorrectedNote[][] = [];
  for (const note of notes) {
    const phrase = phrases[phrases.length - 1];
    const before = phrase?.[phrase.length - 1];
    const apart =
      !before ||
      (note.startSeconds - before.endSeconds >= PHRASE_GAP_SECONDS &&
        note.toStartSeconds === note.startSeconds &&
        before.toEndSeconds === before.endSeconds);
    if (apart) phrases.push([note]);
    else phrase.push(note);
  }
  return phrases;
}

function mixDown(channels: readonly Float32Array[]): Float32Array {
  if (channels.length === 1) return channels[0];
  const mono = new Float32Array(channels[0]?.length ?? 0);
  for (const channel of channels)
    for (let i = 0; i < mono.length; i++) mono[i] += channel[i] / channels.length;
  return mono;
}

function blockLevels(mono: Float32Array, size: number): Float32Array {
  const levels = new Float32Array(Math.ceil(mono.length / size));
  for (let i = 0; i < mono.length; i++) levels[Math.floor(i / size)] += mono[i] * mono[i];
  return levels;
}

function quietest(levels: Float32Array, from: Seconds, to: Seconds): Seconds {
  const first = Math.max(0, Math.floor(from / LEVEL_SECONDS));
  const last = Math.min(levels.length - 1, Math.ceil(to / LEVEL_SECONDS));
  let best = Math.round((first + last) / 2);
  for (let block = first; block <= last; block++) if (levels[block] < levels[best]) best = block;
  return (best + 0.5) * LEVEL_SECONDS;
}
