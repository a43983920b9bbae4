/** Training examples from clips: input rows with what truly sounds and starts in each frame. */
import { createRandom, resample } from '@plundra/core/signal';
import { HOP_SECONDS, READING_HZ } from '@plundra/core/reading';
import {
  createEvidenceInputs,
  createFeatureStream,
  EVIDENCE_INPUTS,
  KINDS,
  trackPitch,
} from '@plundra/core/reading/training';
import { TRUTH_HOP_SECONDS, type Clip } from '../clips/clip.ts';
import type { Example } from './network.ts';

/** Half width of the onset target's triangle. */
const ONSET_WIDTH_SECONDS = 0.03;
/** Share of the frames away from any start that is used. */
const PLAIN_SHARE = 0.5;

export function examplesOf(clip: Clip, seed: number): Example[] {
  const random = createRandom(seed);
  // A third of the material is read with the wide range, as when the kind is left on automatic.
  const kind = clip.kind === 'auto' || random() < 0.33 ? 'wide' : clip.kind;
  const gain = 10 ** (-(random() * 24) / 20);
  const signal = resample(clip.samples, clip.sampleRateHz, READING_HZ).map((value) => value * gain);
  const stream = createFeatureStream(KINDS[kind === 'wide' && clip.kind === 'bass' ? 'bass' : kind]);
  stream.push(signal);
  const features = stream.finish();
  const track = trackPitch(features);
  const fill = createEvidenceInputs(features, track);
  const examples: Example[] = [];
  let noteIndex = 0;
  for (let t = 0; t < features.frames; t++) {
    if (track.midi[t] <= 0) continue;
    const seconds = t * HOP_SECONDS;
    const sounding = clip.f0Hz[Math.round(seconds / TRUTH_HOP_SECONDS)] > 0 ? 1 : 0;
    while (
      noteIndex + 1 < clip.notes.length &&
      clip.notes[noteIndex + 1].startSeconds < seconds + ONSET_WIDTH_SECONDS
    )
      noteIndex++;
    let onset = 0;
    for (const note of clip.notes.slice(Math.max(0, noteIndex - 1), noteIndex + 1)) {
      onset = Math.max(onset, 1 - Math.abs(note.startSeconds - seconds) / ONSET_WIDTH_SECONDS);
    }
    if (onset === 0 && random() > PLAIN_SHARE) continue;
    const input = new Float32Array(EVIDENCE_INPUTS);
    fill(t, input);
    examples.push({ input, sounding, onset: Math.max(0, onset) });
  }
  return examples;
}
