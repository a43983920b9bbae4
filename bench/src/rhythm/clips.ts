/**
 * Pieces with a known pulse as sound.
 *
 * - tuning: patterns by chance, played by FluidR3Mono and MuseScore_General_Lite, some drums computed; the
 *   beat network is trained on it
 * - practice and apart: {@link PRACTICE_PATTERNS} and {@link APART_PATTERNS}, by the same; how many beats a loop has is fitted on them, the
 *   beat network does not know them
 * - choosing: {@link CHOOSING_PATTERNS}, by the same banks; what is not trained is chosen on it
 * - test: patterns, sounds and seeds that were neither trained on nor looked at: {@link LEFT_OUT_PATTERNS} by TimGM6mb
 */
import { createRandom } from '@plundra/core/signal';
import { loadBank, mono, renderPart } from '@plundra/demo';
import { roughen, type Roughness } from '../clips/degrade.ts';
import { addNoise, addReverb } from '../clips/room.ts';
import { chancePattern } from './chancePatterns.ts';
import { composeRhythm, KINDS, type RhythmKind, type RhythmPart, type RhythmPiece } from './compose.ts';
import { computedDrums } from './computedDrums.ts';
import { CHOOSING_PATTERNS, LEFT_OUT_PATTERNS } from './patterns.ts';
import { APART_PATTERNS, PRACTICE_PATTERNS } from './practicePatterns.ts';
import { PRACTICE_STRUMS, type STRUMS } from './strums.ts';
import { drawTune, type StoredTune } from './tunes.ts';

type Bank = Awaited<ReturnType<typeof loadBank>>;

export interface RhythmClip extends RhythmPiece {
  name: string;
  samples: Float32Array;
}

export const RHYTHM_RATE_HZ = 22050;
export const RHYTHM_BANKS = {
  tuning: ['FluidR3Mono_GM', 'MuseScore_General_Lite'],
  practice: ['FluidR3Mono_GM', 'MuseScore_General_Lite'],
  apart: ['FluidR3Mono_GM', 'MuseScore_General_Lite'],
  choosing: ['FluidR3Mono_GM', 'MuseScore_General_Lite'],
  test: ['TimGM6mb'],
} as const;
const SETS = {
  tuning: { patterns: null, seed: 300_000 },
  practice: { patterns: PRACTICE_PATTERNS, seed: 1_200_000 },
  apart: { patterns: APART_PATTERNS, seed: 1_500_000 },
  choosing: { patterns: CHOOSING_PATTERNS, seed: 600_000 },
  test: { patterns: LEFT_OUT_PATTERNS, seed: 900_000 },
} as const;
/** Pieces with tunes have other seeds than those without. */
const TUNE_SEED = 20_000_000;
/** So many of the pieces that are trained on are poor recordings. */
const ROUGH_SHARE = 0.25;
const ROUGHNESSES: readonly Roughness[] = [
  'telephone band',
  'phone in a room',
  'clipped',
  'coarse codec in a hall',
];
const PROGRAMS: Record<RhythmPart['role'], readonly number[]> = {
  drums: [0, 0, 0, 8, 16, 24, 25, 32, 40],
  guitar: [24, 25, 25, 26, 27, 28, 29],
  keys: [0, 1, 4, 5, 11, 16, 48],
  bass: [32, 33, 34, 36, 38],
  melody: [40, 52, 56, 65, 68, 71, 73, 22, 80, 48],
};

export interface RhythmClipOptions {
  loop?: boolean;
  /** The melody is one of these; drums by chance. */
  tunes?: readonly StoredTune[];
  /** Ways to strum; those of the set without this. */
  strums?: typeof STRUMS;
  /** Strums by chance are few. */
  sparse?: boolean;
  /** Drums are played by it instead of by the set's banks. */
  kit?: Bank;
  /** A machine plays it: computed drums, on the grid, and no room and no noise between the strokes. */
  machine?: boolean;
  /** The kick plays every beat. */
  floor?: boolean;
}

export async function rhythmClip(
  set: keyof typeof SETS,
  banks: readonly Bank[],
  kind: RhythmKind,
  round: number,
  { loop = false, tunes, kit, machine = false, strums: asked, sparse = false, floor }: RhythmClipOptions = {},
): Promise<RhythmClip> {
  const { patterns, seed } = SETS[set];
  const own = seed + 100 * round + KINDS.indexOf(kind) + (tunes ? TUNE_SEED : 0);
  const random = createRandom(own + 50_000_000);
  const tune = tunes && drawTune(tunes, random);
  const free = patterns === null || tune !== undefined;
  const drawn = tune || !patterns ? [chancePattern(random, tune?.metre, floor)] : patterns;
  const strums = asked ?? (set === 'practice' ? PRACTICE_STRUMS : undefined);
  const made = { free, strums, sparse, loop, tune, machine };
  const piece = composeRhythm(kind, drawn, own, 10 + 18 * random(), made);
  const frames = Math.ceil(piece.durationSeconds * RHYTHM_RATE_HZ);
  const samples = new Float32Array(frames);
  const bank = banks[round % banks.length];
  for (const part of piece.parts) {
    const computed = part.role === 'drums' && set !== 'test' && (random() < 0.4 || machine);
    const programs = PROGRAMS[part.role];
    const sound = computed
      ? computedDrums(part.notes, frames, RHYTHM_RATE_HZ, random, machine)
      : mono(
          await renderPart(
            part.role === 'drums' && kit ? kit : bank,
            {
              program: kit ? 0 : programs[Math.floor(random() * programs.length)],
              drums: part.role === 'drums',
              notes: part.notes.map((note) => ({ ...note, startSeconds: Math.max(0, note.startSeconds) })),
            },
            piece.durationSeconds,
            RHYTHM_RATE_HZ,
          ),
        );
    let energy = 1e-9;
    for (const value of sound) energy += value * value;
    const scale = (part.gain * 0.1 * (0.6 + 0.8 * random())) / Math.sqrt(energy / frames);
    for (let n = 0; n < frames; n++) samples[n] += scale * (sound[n] ?? 0);
  }
  if (!machine) {
    if (random() < 0.4) addReverb(samples, RHYTHM_RATE_HZ, 0.05 + 0.2 * random(), 0.3 + 1.2 * random());
    addNoise(samples, 25 + 40 * random(), random);
  }
  const rough = (set === 'tuning' || set === 'practice') && !machine && random() < ROUGH_SHARE;
  const heard = rough
    ? roughen(samples, RHYTHM_RATE_HZ, ROUGHNESSES[Math.floor(random() * ROUGHNESSES.length)], random)
    : samples;
  let peak = 1e-9;
  for (const value of heard) peak = Math.max(peak, Math.abs(value));
  for (let n = 0; n < frames; n++) heard[n] *= 0.7 / peak;
  return { ...piece, name: `${kind}, ${tune?.name ?? piece.pattern} ${round}`, samples: heard };
}

export async function* rhythmClips(
  set: keyof typeof SETS,
  rounds: number,
  kinds: readonly RhythmKind[] = KINDS,
  from = 0,
): AsyncGenerator<RhythmClip> {
  const banks = await Promise.all(RHYTHM_BANKS[set].map((name) => loadBank(name)));
  for (let round = from; round < from + rounds; round++)
    for (const kind of kinds) yield rhythmClip(set, banks, kind, round);
}
