/**
 * Hits of drum kits that were never trained on, scored by time alone and with their kinds: a check kit (TimGM6mb, looked
 * at while the method was made) and, where Debian's avldrums.lv2-soundfont is installed, two recorded kits.
 */
import { existsSync } from 'node:fs';
import { createHitReader, keptHits, type ReadHit } from '@plundra/core/reading';
import { createRandom, type Random } from '@plundra/core/signal';
import type { HitKind } from '@plundra/core/theory';
import { loadBank, loadBankFile, renderPart, type SampledNote } from '@plundra/demo';
import { addNoise, addReverb } from '../clips/room.ts';
import { matchNotes } from '../metrics.ts';

export interface HitScores {
  set: 'check' | 'test';
  pattern: string;
  clips: number;
  precision: number;
  recall: number;
  /** Of distinct times. */
  onsetF1: number;
  /** Share of the hits found in time whose kind is right too. */
  kindRight: number;
  /** Share of the read hits of a drum that nobody struck then. */
  notStruck: number;
}

interface Strike {
  seconds: number;
  kind: HitKind;
  midi: number;
}

type Bank = Awaited<ReturnType<typeof loadBankFile>>;

const RATE = 44100;
const SECONDS = 16;
const SENSITIVITY = 0.5;
const NEAR_SECONDS = 0.05;
/** Strikes nearer than this are one onset. */
const TOGETHER_SECONDS = 0.03;

/** One bar of sixteen steps: kind, General MIDI key, steps. */
type Pattern = [kind: HitKind, midi: number, steps: number[]][];
const EIGHTHS = [0, 2, 4, 6, 8, 10, 12, 14];
const PATTERNS: Record<string, Pattern> = {
  'straight eighths': [
    ['kick', 36, [0, 6, 8]],
    ['snare', 38, [4, 12]],
    ['closed-hat', 42, EIGHTHS],
  ],
  'open hat': [
    ['kick', 36, [0, 3, 8, 10]],
    ['snare', 38, [4, 12]],
    ['closed-hat', 42, [0, 2, 4, 6, 8, 10, 12]],
    ['open-hat', 46, [14]],
  ],
  ride: [
    ['kick', 36, [0, 8]],
    ['snare', 38, [4, 7, 12]],
    ['cymbal', 51, EIGHTHS],
  ],
  toms: [
    ['kick', 36, [0, 8]],
    ['tom', 48, [2, 3, 6]],
    ['tom', 45, [10, 11]],
    ['tom', 41, [13, 14]],
  ],
  'hand drums': [
    ['hand-open', 64, [0, 5, 8]],
    ['hand-open', 63, [3, 10, 14]],
    ['hand-slap', 62, [4, 12]],
    ['shaker', 70, EIGHTHS],
  ],
  'hand drums alone': [
    ['hand-open', 64, [0, 6, 8, 11]],
    ['hand-open', 63, [2, 14]],
    ['hand-slap', 62, [4, 12]],
  ],
};

/** Recorded kits of Debian's avldrums.lv2-soundfont (used here only, never shipped); their keys are their own. */
const TEST_KITS = ['Black_Pearl_4_LV2', 'Red_Zeppelin_4_LV2'].map(
  (name) => `/usr/share/sounds/sf2/${name}.sf2`,
);
const TEST_PATTERNS: Record<string, Pattern> = {
  'straight eighths': PATTERNS['straight eighths'],
  'open hat': PATTERNS['open hat'],
  ride: PATTERNS.ride,
  toms: [
    ['kick', 36, [0, 8]],
    ['tom', 45, [2, 3, 6, 10]],
    ['tom', 41, [11, 13, 14]],
  ],
  crashes: [
    ['kick', 36, [0, 6, 8]],
    ['snare', 38, [4, 12]],
    ['cymbal', 49, [0]],
    ['closed-hat', 42, [2, 4, 6, 8, 10, 12, 14]],
  ],
};

/** Clips of the check kit on other seeds than those of the scores, for fitting. */
export async function* fittingClips(
  rounds: number,
): AsyncGenerator<{ samples: Float32Array; sampleRateHz: number; strikes: readonly Strike[] }> {
  const kit = await loadBank('TimGM6mb');
  for (const [name, pattern] of Object.entries(PATTERNS))
    for (let clip = 0; clip < rounds; clip++) {
      const random = createRandom(40_800 + 31 * clip + name.length);
      yield { ...(await makeClip(kit, pattern, random)), sampleRateHz: RATE };
    }
}

/** Whether somebody struck this drum then. */
export function isStruck({ seconds, kind }: ReadHit, strikes: readonly Strike[]): boolean {
  return strikes.some((strike) => strike.kind === kind && Math.abs(strike.seconds - seconds) <= NEAR_SECONDS);
}

export async function measureHits(rounds: number): Promise<HitScores[]> {
  const scores: HitScores[] = [];
  const check = [await loadBank('TimGM6mb')];
  const test = await Promise.all(TEST_KITS.filter((path) => existsSync(path)).map(loadBankFile));
  for (const [set, kits, patterns] of [
    ['check', check, PATTERNS],
    ['test', test, TEST_PATTERNS],
  ] as const) {
    if (kits.length === 0) continue;
    for (const [name, pattern] of Object.entries(patterns)) {
      const sums = { matched: 0, found: 0, true: 0, kinds: 0, timed: 0, hits: 0, notStruck: 0 };
      for (let clip = 0; clip < rounds * kits.length; clip++) {
        const random = createRandom((set === 'test' ? 6_800 : 800) + 31 * clip + name.length);
        const { samples, strikes } = await makeClip(kits[clip % kits.length], pattern, random);
        const reader = createHitReader(RATE);
        reader.push(samples);
        count(sums, strikes, keptHits(reader.finish(), SENSITIVITY));
      }
      const precision = sums.matched / Math.max(1, sums.found);
      const recall = sums.matched / sums.true;
      scores.push({
        set,
        pattern: name,
        clips: rounds * kits.length,
        precision,
        recall,
        onsetF1: (2 * precision * recall) / Math.max(1e-9, precision + recall),
        kindRight: sums.kinds / Math.max(1, sums.timed),
        notStruck: sums.notStruck / Math.max(1, sums.hits),
      });
      process.stderr.write('.');
    }
  }
  process.stderr.write('\n');
  return scores;
}

async function makeClip(bank: Bank, pattern: Pattern, random: Random) {
  const strikes = playPattern(pattern, random);
  const notes = strikes.map(({ seconds, midi, velocity }): SampledNote => ({
    startSeconds: seconds,
    endSeconds: seconds + 0.1,
    midi,
    velocity,
  }));
  const { left, right } = await renderPart(bank, { program: 0, drums: true, notes }, SECONDS, RATE);
  const samples = left.map((value, i) => (value + right[i]) / 2);
  if (random() < 0.5) addReverb(samples, RATE, 0.05 + 0.1 * random(), 0.3 + 0.5 * random());
  addNoise(samples, 35 + 20 * random(), random);
  return { samples, strikes };
}

function playPattern(pattern: Pattern, random: Random): (Strike & { velocity: number })[] {
  const stepSeconds = 15 / (80 + 50 * random());
  const strikes: (Strike & { velocity: number })[] = [];
  for (let bar = 0; 16 * (bar + 1) * stepSeconds < SECONDS - 0.5; bar++) {
    for (const [kind, midi, steps] of pattern) {
      for (const step of steps) {
        if (random() < 0.06) continue;
        const seconds = 0.1 + (16 * bar + step) * stepSeconds + (random() - 0.5) * 0.016;
        strikes.push({ seconds, kind, midi, velocity: Math.round(60 + 55 * random()) });
      }
    }
  }
  return strikes.sort((a, b) => a.seconds - b.seconds);
}

function count(
  sums: Record<'matched' | 'found' | 'true' | 'kinds' | 'timed' | 'hits' | 'notStruck', number>,
  strikes: readonly Strike[],
  hits: readonly ReadHit[],
): void {
  const onset = (seconds: number) => ({ startSeconds: seconds, endSeconds: seconds, midi: 0 });
  const times = (list: readonly { seconds: number }[]) =>
    list
      .map(({ seconds }) => seconds)
      .filter((seconds, i, all) => i === 0 || seconds - all[i - 1] > TOGETHER_SECONDS)
      .map(onset);
  const [wanted, found] = [times(strikes), times(hits)];
  sums.matched += matchNotes(wanted, found, false, true).length;
  sums.found += found.length;
  sums.true += wanted.length;
  sums.hits += hits.length;
  sums.notStruck += hits.filter((hit) => !isStruck(hit, strikes)).length;
  for (const { seconds, kind } of strikes) {
    const near = hits.filter((hit) => Math.abs(hit.seconds - seconds) <= NEAR_SECONDS);
    if (near.length === 0) continue;
    sums.timed++;
    if (near.some((hit) => hit.kind === kind)) sums.kinds++;
  }
}
