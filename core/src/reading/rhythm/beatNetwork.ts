/**
 * How likely a beat and a bar line lie in each frame, whether beats fall into three, and the tempo: residual dilated convolutions
 * over the rhythm features, as trained by training/train_beats.py (Davies and Böck 2019; several tasks at once: Böck, Davies and
 * Knees 2019). It sees six seconds to each side.
 */
import { createDilatedNetwork } from '../dilatedNetwork.ts';
import weights from './beatNetworkWeights.json' with { type: 'json' };

export interface BeatLikelihood {
  /** 0–1, one for each frame. */
  beat: Float32Array;
  downbeat: Float32Array;
  /** Of the music around the frame: how likely its beats are dotted quarters, as in 6/8. */
  compound: Float32Array;
  /** The same for each of the tempi that are told apart, see {@link tempoBinOf}. */
  tempi: Float32Array[];
}

const SLOWEST_BPM = 42;
const BINS_PER_OCTAVE = 8;

/** Place of a tempo among {@link BeatLikelihood.tempi}, also between two of them. */
export function tempoBinOf(bpm: number): number {
  return BINS_PER_OCTAVE * Math.log2(bpm / SLOWEST_BPM);
}

const network = createDilatedNetwork(weights);

/** @param features as rhythmFeatures gives them */
export function beatLikelihood(features: Float32Array): BeatLikelihood {
  const [beat, downbeat, compound, ...tempi] = network(features);
  return { beat, downbeat, compound, tempi };
}
