/** A clip: sound whose notes and fundamental frequency are known. */
export interface Clip {
  name: string;
  group: 'instrument' | 'singing' | 'left-out voices' | 'rough singing';
  kind: 'voice' | 'guitar' | 'bass' | 'auto';
  sampleRateHz: number;
  samples: Float32Array;
  notes: { startSeconds: number; endSeconds: number; midi: number }[];
  /** True fundamental, 0 in silence, every {@link TRUTH_HOP_SECONDS}. */
  f0Hz: Float32Array;
}

export const TRUTH_HOP_SECONDS = 0.01;
