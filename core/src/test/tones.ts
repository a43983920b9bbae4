/** Small signals for tests. */
import { createRandom, gaussian } from '../signal/index.ts';
import { midiToHz } from '../theory/index.ts';

export interface Tone {
  startSeconds: number;
  endSeconds: number;
  midi: number;
  level?: number;
  vibratoCents?: number;
}

/** Tones with ten falling harmonics, 10 ms edges, over a faint noise floor. */
export function playTones(
  tones: Tone[],
  durationSeconds: number,
  sampleRateHz: number,
  noise = 1e-4,
): Float32Array {
  const random = createRandom(5);
  const samples = new Float32Array(Math.round(durationSeconds * sampleRateHz));
  for (let i = 0; i < samples.length; i++) samples[i] = gaussian(random) * noise;
  for (const { startSeconds, endSeconds, midi, level = 0.3, vibratoCents = 0 } of tones) {
    let phase = 0;
    for (
      let i = Math.round(startSeconds * sampleRateHz);
      i < Math.min(samples.length, endSeconds * sampleRateHz);
      i++
    ) {
      const t = i / sampleRateHz - startSeconds;
      const vibrato = (vibratoCents / 100) * Math.sin(2 * Math.PI * 5.5 * t) * Math.min(1, t / 0.3);
      phase += midiToHz(midi + vibrato) / sampleRateHz;
      const edge = Math.min(1, t / 0.01, (endSeconds - startSeconds - t) / 0.01);
      let sum = 0;
      for (let k = 1; k <= 10 && k * midiToHz(midi) < sampleRateHz / 2; k++)
        sum += Math.sin(2 * Math.PI * k * phase) / k ** 1.3;
      samples[i] += sum * level * 0.5 * edge;
    }
  }
  return samples;
}
