/** Onsets of any window of a recording: what they are picked from is measured in blocks, once. */
import {
  createOnsetMeter,
  cutMeasure,
  joinMeasures,
  ONSET_FRAME_SECONDS,
  pickOnsets,
  type FoundOnset,
  type OnsetMeasure,
} from '../reading/index.ts';
import type { Seconds } from '../signal/index.ts';

/** In frames of `ONSET_FRAME_SECONDS`: about ten seconds. */
const BLOCK_FRAMES = 430;
/** Looked at before and after a block or a window and left out again, so that its edges are judged as within the whole. */
const MARGIN_FRAMES = 8;

export interface OnsetBlocks {
  readonly channels: readonly Float32Array[];
  /** By number of the block. */
  readonly measured: ReadonlyMap<number, OnsetMeasure>;
  /** Measures the next block of a window that is not known yet; false: all of it is. */
  prepare(fromSeconds: Seconds, toSeconds: Seconds): boolean;
  /** Those of a window, in order, also the faintest; how clear one is, is said beside the others of the window. */
  between(fromSeconds: Seconds, toSeconds: Seconds): FoundOnset[];
}

/** @param before of another version of the same recording: blocks that sound the same are known */
export function createOnsetBlocks(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  before?: OnsetBlocks,
): OnsetBlocks {
  const measured = new Map<number, OnsetMeasure>();
  const lastFrame = Math.ceil((channels[0]?.length ?? 0) / sampleRateHz / ONSET_FRAME_SECONDS);
  const sampleOf = (frame: number) => Math.round(frame * ONSET_FRAME_SECONDS * sampleRateHz);
  /** Frames that are measured for a block. */
  const around = (block: number) => ({
    first: Math.max(0, block * BLOCK_FRAMES - MARGIN_FRAMES),
    end: Math.min(lastFrame, (block + 1) * BLOCK_FRAMES + MARGIN_FRAMES),
  });
  for (const [block, known] of before?.measured ?? []) {
    const { first, end } = around(block);
    if (
      channels.every((channel, c) =>
        sameBetween(channel, before!.channels[c], sampleOf(first), sampleOf(end)),
      )
    )
      measured.set(block, known);
  }

  const measure = (block: number): OnsetMeasure => {
    const { first, end } = around(block);
    const meter = createOnsetMeter(sampleRateHz);
    meter.push(monoOf(channels, sampleOf(first), sampleOf(end)));
    const skipped = block * BLOCK_FRAMES - first;
    return cutMeasure(meter.finish(), skipped, skipped + BLOCK_FRAMES);
  };

  const blockOf = (block: number): OnsetMeasure => {
    const known = measured.get(block) ?? measure(block);
    measured.set(block, known);
    return known;
  };

  const framesOf = (fromSeconds: Seconds, toSeconds: Seconds) => ({
    first: Math.max(0, Math.floor(fromSeconds / ONSET_FRAME_SECONDS) - MARGIN_FRAMES),
    end: Math.min(lastFrame, Math.ceil(toSeconds / ONSET_FRAME_SECONDS) + MARGIN_FRAMES),
  });
  const blocksOf = ({ first, end }: { first: number; end: number }): number[] => {
    const block = Math.floor(first / BLOCK_FRAMES);
    return Array.from({ length: Math.max(0, Math.ceil(end / BLOCK_FRAMES) - block) }, (_, i) => block + i);
  };

  return {
    channels,
    measured,
    prepare(fromSeconds, toSeconds) {
      const next = blocksOf(framesOf(fromSeconds, toSeconds)).find((block) => !measured.has(block));
      if (next !== undefined) blockOf(next);
      return next !== undefined;
    },
    between(fromSeconds, toSeconds) {
      const frames = framesOf(fromSeconds, toSeconds);
      const parts = blocksOf(frames).map((block) => {
        const begins = block * BLOCK_FRAMES;
        return cutMeasure(
          blockOf(block),
          Math.max(0, frames.first - begins),
          Math.max(0, frames.end - begins),
        );
      });
      return pickOnsets(joinMeasures(parts))
        .map((onset) => ({ ...onset, seconds: onset.seconds + frames.first * ONSET_FRAME_SECONDS }))
        .filter(({ seconds }) => seconds >= fromSeconds && seconds <= toSeconds);
    },
  };
}

function monoOf(channels: readonly Float32Array[], from: number, to: number): Float32Array {
  const mono = new Float32Array(Math.max(0, Math.min(to, channels[0].length) - from));
  for (const channel of channels)
    for (let i = 0; i < mono.length; i++) mono[i] += channel[from + i] / channels.length;
  return mono;
}

function sameBetween(a: Float32Array, b: Float32Array, from: number, to: number): boolean {
  if (a === b) return true;
  for (let i = from; i < Math.min(to, a.length); i++) if (a[i] !== b[i]) return false;
  return true;
}
