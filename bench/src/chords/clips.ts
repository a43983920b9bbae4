/**
 * Arrangements rendered by sampled instruments.
 *
 * - tuning: FluidR3Mono and MuseScore_General_Lite; the chord model is fitted on them
 * - test: TimGM6mb, a family that neither the note network nor the chord model was fitted on, with other seeds
 */
import { createRandom } from '@plundra/core/signal';
import { loadBank, renderPart } from '@plundra/demo';
import { addNoise, addReverb } from '../clips/room.ts';
import { compose, ENSEMBLES, type Arrangement, type ArrangedPart } from './compose.ts';
import type { Manner } from './progression.ts';

export interface ChordClip extends Arrangement {
  name: string;
  manner: Manner;
  sampleRateHz: number;
  samples: Float32Array;
}

const RATE = 22050;
const SECONDS = 24;
const SETS = {
  tuning: { banks: ['FluidR3Mono_GM', 'MuseScore_General_Lite'], seed: 100_000 },
  test: { banks: ['TimGM6mb'], seed: 700_000 },
} as const;
/** Each manner has seeds of its own. */
const MANNER_SEEDS: Record<Manner, number> = {
  usual: 0,
  quick: 50_000_000,
  rich: 110_000_000,
  pedal: 160_000_000,
};
const PROGRAMS: Record<ArrangedPart['role'], readonly number[]> = {
  guitar: [24, 25, 25, 26, 27],
  keys: [0, 0, 1, 4, 5, 16],
  bass: [32, 33, 33, 34],
  melody: [52, 73, 65, 40, 80, 11],
  drums: [0],
};

/** Rounds from `from` up to `rounds`. */
export async function* chordClips(
  set: keyof typeof SETS,
  rounds: number,
  manner: Manner = 'usual',
  from = 0,
): AsyncGenerator<ChordClip> {
  const { banks, seed } = SETS[set];
  const loaded = await Promise.all(banks.map((name) => loadBank(name)));
  for (let round = from; round < rounds; round++) {
    for (const [i, ensemble] of ENSEMBLES.entries()) {
      const own = seed + MANNER_SEEDS[manner] + 100 * round + i;
      const random = createRandom(own + 50_000);
      const arrangement = compose(ensemble, own, SECONDS, manner);
      const bank = loaded[(round + i) % loaded.length];
      const frames = Math.ceil(arrangement.durationSeconds * RATE);
      const samples = new Float32Array(frames);
      // Recordings may lie beside A4 = 440 Hz.
      const detune = (random() - 0.5) * 0.6;
      for (const { role, gain, notes } of arrangement.parts) {
        const programs = PROGRAMS[role];
        const part = {
          program: programs[Math.floor(random() * programs.length)],
          drums: role === 'drums',
          notes,
          ...(role !== 'drums' && { bends: [{ timeSeconds: 0, semitones: detune }] }),
        };
        const { left, right } = await renderPart(bank, part, arrangement.durationSeconds, RATE);
        let energy = 0;
        for (let n = 0; n < frames; n++) energy += (left[n] + right[n]) ** 2;
        const scale = (gain * 0.1) / Math.sqrt(energy / frames + 1e-12);
        for (let n = 0; n < frames; n++) samples[n] += scale * (left[n] + right[n]);
      }
      if (random() < 0.5) addReverb(samples, RATE, 0.05 + 0.12 * random(), 0.4 + random());
      addNoise(samples, 35 + 25 * random(), random);
      let peak = 1e-9;
      for (const value of samples) peak = Math.max(peak, Math.abs(value));
      for (let n = 0; n < frames; n++) samples[n] *= 0.7 / peak;
      yield { ...arrangement, name: `${ensemble} ${round}`, manner, sampleRateHz: RATE, samples };
    }
  }
}
