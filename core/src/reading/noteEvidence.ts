/**
 * Second stage of the melody reader: from the features around a frame, how likely it is that a pitch sounds in it and that a note
 * starts in it. Residual dilated convolutions that see 0.7 s to each side, trained by training/train_notes.py on sung and played
 * lines; labels say what sounds (docs/accuracy.md).
 */
import { createDilatedNetwork } from './dilatedNetwork.ts';
import type { FrameFeatures } from './frameFeatures.ts';
import { noteInputs } from './noteInputs.ts';
import weights from './noteNetworkWeights.json' with { type: 'json' };
import type { PitchTrack } from './pitchTrack.ts';

/** Probabilities 0–1 for each frame. */
export interface NoteEvidence {
  sounding: Float32Array;
  onset: Float32Array;
}

const network = createDilatedNetwork(weights);

export function weighEvidence(features: FrameFeatures, track: PitchTrack): NoteEvidence {
  const [sounding, onset] = network(noteInputs(features, track));
  for (let t = 0; t < features.frames; t++) {
    if (track.midi[t] > 0) continue;
    sounding[t] = 0;
    onset[t] = 0;
  }
  return { sounding, onset };
}
