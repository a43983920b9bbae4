/** A recording of a single line, ready to be corrected again and again: what does not change is measured once. */
import type { Contour } from '../reading/line.ts';
import type { Seconds } from '../signal/index.ts';
import { planTime, type CorrectedNote } from './correction.ts';
import { findPitchMarks, type PitchMarks } from './pitchMarks.ts';
import { planPitch } from './pitchPlan.ts';
import { renderPatches, type Patch } from './render.ts';

export interface RetuneResult {
  patches: Patch[];
  /** Notes that could not be given the place or length that was asked. */
  limited: string[];
}

export interface Retuner {
  /** Renders what differs from the recording. Notes in order of their start. */
  render(notes: readonly CorrectedNote[], options?: { formantSemitones?: number }): RetuneResult;
}

const LEVEL_SECONDS = 0.005;

export function createRetuner(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  contour: Contour,
): Retuner {
  const mono = mixDown(channels);
  const levels = blockLevels(mono, Math.round(LEVEL_SECONDS * sampleRateHz));
  let marks: PitchMarks | undefined;
  return {
    render(notes, { formantSemitones } = {}) {
      const { anchors, limited } = planTime(notes, (from, to) => quietest(levels, from, to));
      marks ??= findPitchMarks(mono, sampleRateHz, contour);
      const shiftSemitones = planPitch(notes, marks, sampleRateHz);
      return {
        patches: renderPatches(channels, sampleRateHz, { marks, shiftSemitones, anchors, formantSemitones }),
        limited,
      };
    },
  };
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
