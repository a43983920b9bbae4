/** Drums without samples: falling sines for skins, filtered noise for wires and metal, another kit for every piece. */
import { gaussian, type Random } from '@plundra/core/signal';
import type { SampledNote } from '@plundra/demo';

interface Recipe {
  /** Hertz at the stroke and after it; no tone without them. */
  tone?: readonly [number, number];
  toneSeconds: number;
  noise: number;
  noiseSeconds: number;
  /** How much of what is low the noise loses, 0–1. */
  bright: number;
}

const RECIPES: Record<number, Recipe> = {
  36: { tone: [140, 52], toneSeconds: 0.16, noise: 0.08, noiseSeconds: 0.01, bright: 0.4 },
  38: { tone: [230, 180], toneSeconds: 0.07, noise: 0.7, noiseSeconds: 0.12, bright: 0.5 },
  37: { tone: [900, 850], toneSeconds: 0.02, noise: 0.5, noiseSeconds: 0.02, bright: 0.6 },
  42: { toneSeconds: 0, noise: 0.45, noiseSeconds: 0.04, bright: 0.97 },
  46: { toneSeconds: 0, noise: 0.45, noiseSeconds: 0.3, bright: 0.97 },
  49: { toneSeconds: 0, noise: 0.8, noiseSeconds: 0.9, bright: 0.93 },
  51: { tone: [3300, 3300], toneSeconds: 0.25, noise: 0.3, noiseSeconds: 0.25, bright: 0.97 },
  54: { toneSeconds: 0, noise: 0.5, noiseSeconds: 0.09, bright: 0.98 },
};
const OTHER: Recipe = { tone: [190, 150], toneSeconds: 0.12, noise: 0.2, noiseSeconds: 0.03, bright: 0.7 };

export function computedDrums(
  notes: readonly SampledNote[],
  frames: number,
  rateHz: number,
  random: Random,
  machine = false,
): Float32Array {
  const out = new Float32Array(frames);
  const kit = new Map<number, Recipe>();
  for (const { midi } of notes)
    if (!kit.has(midi)) kit.set(midi, varied(RECIPES[midi] ?? OTHER, random, machine));
  for (const { startSeconds, midi, velocity } of notes) {
    const { tone, toneSeconds, noise, noiseSeconds, bright } = kit.get(midi)!;
    const level = (velocity / 127) ** 1.6;
    const first = Math.max(0, Math.round(startSeconds * rateHz));
    const length = Math.round(6 * Math.max(toneSeconds, noiseSeconds) * rateHz);
    let phase = 0;
    let before = 0;
    for (let i = 0; i < length && first + i < frames; i++) {
      const seconds = i / rateHz;
      let value = 0;
      if (tone) {
        const hz = tone[1] + (tone[0] - tone[1]) * Math.exp(-seconds / 0.03);
        phase += (2 * Math.PI * hz) / rateHz;
        value += Math.sin(phase) * Math.exp(-seconds / toneSeconds);
      }
      const hiss = gaussian(random);
      value += noise * (hiss - bright * before) * Math.exp(-seconds / noiseSeconds);
      before = hiss;
      out[first + i] += level * value * Math.min(1, i / 20);
    }
  }
  return out;
}

/** Skins without wires are less noisy than this. */
const BARE_NOISE = 0.3;

/** @param machine skins may be bare tones, without a beater's noise or a fall */
function varied(
  { tone, toneSeconds, noise, noiseSeconds, bright }: Recipe,
  random: Random,
  machine: boolean,
): Recipe {
  const by = (octaves: number) => 2 ** (octaves * (2 * random() - 1));
  const pitch = by(0.6);
  const bare = machine && tone !== undefined && noise < BARE_NOISE;
  const falls = !bare || random() < 0.5;
  const beaten = !bare || random() < 0.5;
  return {
    ...(tone && { tone: [falls ? tone[0] * pitch * by(0.3) : tone[1] * pitch, tone[1] * pitch] as const }),
    toneSeconds: toneSeconds * by(1),
    noise: beaten ? noise * by(1.5) : 0,
    noiseSeconds: noiseSeconds * by(1),
    bright: 1 - (1 - bright) * by(1.5),
  };
}
