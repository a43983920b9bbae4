/** What is found in a chordal clip before anything is fitted on it. */
import { createChordalReader, DEFAULT_SENSITIVITY, HOP_SECONDS } from '@plundra/core/reading';
import { findNotes, LOWEST_KEY, noteConfidences } from '@plundra/core/reading/training';
import type { ChordalClip } from '../chordal/clips.ts';

/** As decodeNotes keeps them at the usual sensitivity. */
const MIN_CONFIDENCE = 0.45;

/** The notes that are sure enough, as they are found and as they are compared with what is known. */
export function findInClip({ samples, sampleRateHz }: Pick<ChordalClip, 'samples' | 'sampleRateHz'>) {
  const reader = createChordalReader(sampleRateHz);
  reader.push(samples);
  const activations = reader.finish();
  const all = findNotes(activations, DEFAULT_SENSITIVITY);
  const confidences = noteConfidences(all);
  const found = all.filter((_, i) => confidences[i] >= MIN_CONFIDENCE);
  const notes = found.map(({ key, startFrame, endFrame }) => ({
    startSeconds: startFrame * HOP_SECONDS,
    endSeconds: endFrame * HOP_SECONDS,
    midi: LOWEST_KEY + key + activations.tuningCents / 100,
  }));
  return { activations, found, notes };
}
