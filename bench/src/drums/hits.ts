/**
 * Hits of drum kits that were never trained on, scored by time alone and with their kinds: a check kit (TimGM6mb, looked
 * at while the method was made); where Debian's avldrums.lv2-soundfont is installed, two recorded kits; and, from a folder, kits of other
 * people (kits.ts): some on which choices are made, and some that are left out.
 */
import { existsSync } from 'node:fs';
import { createHitReader, keptHits, type ReadHit } from '@plundra/core/reading';
import { createRandom, type Random } from '@plundra/core/signal';
import { KEY_OF_KIND, type HitKind } from '@plundra/core/theory';
import { loadBank, loadBankFile, renderPart, type SampledNote } from '@plundra/demo';
import { Calibration, type CalibrationRow } from '../accuracy.ts';
import { addNoise, addReverb } from '../clips/room.ts';
import { matchNotes } from '../metrics.ts';
import { KIT_RATE_HZ, loadKits, playKit, type Kit } from './kits.ts';

export interface HitScores {
  set: 'check' | 'test' | 'choosing' | 'left out';
  /** Of a pattern, or of a kit with all patterns that it has the drums for. */
  name: string;
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

export interface HitMeasures {
  scores: HitScores[];
  /** Of kits that are left out: how often hits of each confidence are of a drum that was struck. */
  calibration: CalibrationRow[];
}

interface Strike {
  seconds: number;
  kind: HitKind;
  midi: number;
}

type Bank = Awaited<ReturnType<typeof loadBankFile>>;

const RATE = KIT_RATE_HZ;
const SECONDS = 16;
const SENSITIVITY = 0.5;
const PEAK = 0.7;
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
  crashes: [
    ['kick', 36, [0, 6, 8]],
    ['snare', 38, [4, 12]],
    ['cymbal', 49, [0]],
    ['closed-hat', 42, [2, 4, 6, 8, 10, 12, 14]],
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
const { crashes, ...CHECK_PATTERNS } = PATTERNS;
const TEST_PATTERNS: Record<string, Pattern> = {
  'straight eighths': PATTERNS['straight eighths'],
  'open hat': PATTERNS['open hat'],
  ride: PATTERNS.ride,
  toms: [
    ['kick', 36, [0, 8]],
    ['tom', 45, [2, 3, 6, 10]],
    ['tom', 41, [11, 13, 14]],
  ],
  crashes,
};
/** Kits on which choices are made; what others play is left out. */
const CHOOSING_KITS: readonly string[] = [
  'HardElectro1',
  'Millo-Drums_v.1',
  'Millo_MultiLayered2',
  'TR808EmulationKit',
  'circAfrique v4',
];
/** Strokes of these were trained on (training/kit_shots.py). */
const TRAINED_KITS: readonly string[] = ['Audiophob', 'rumpf_kit_z01_h2'];
/** The same drums as one of the recorded kits of the test set. */
const SAME_KITS: readonly string[] = ['GMRockKit', 'The Black Pearl 1.0'];

/** Whether somebody struck this drum then. */
function isStruck({ seconds, kind }: ReadHit, strikes: readonly Strike[]): boolean {
  return strikes.some((strike) => strike.kind === kind && Math.abs(strike.seconds - seconds) <= NEAR_SECONDS);
}

/** @param kitsFolder holds a folder for each kit of other people */
export async function measureHits(rounds: number, kitsFolder?: string): Promise<HitMeasures> {
  const scores: HitScores[] = [];
  const calibration = new Calibration();
  const check = [await loadBank('TimGM6mb')];
  const test = await Promise.all(TEST_KITS.filter((path) => existsSync(path)).map(loadBankFile));
  for (const [set, kits, patterns, seed] of [
    ['check', check, CHECK_PATTERNS, 800],
    ['test', test, TEST_PATTERNS, 6_800],
  ] as const) {
    if (kits.length === 0) continue;
    for (const [name, pattern] of Object.entries(patterns)) {
      const board = new HitBoard();
      for (let clip = 0; clip < rounds * kits.length; clip++)
        await board.add(kits[clip % kits.length], pattern, createRandom(seed + 31 * clip + name.length));
      scores.push({ set, name, ...board.scores() });
    }
  }
  for (const kit of kitsFolder ? await loadKits(kitsFolder) : []) {
    if (SAME_KITS.includes(kit.name) || TRAINED_KITS.includes(kit.name)) continue;
    const set = CHOOSING_KITS.includes(kit.name) ? 'choosing' : 'left out';
    const board = new HitBoard(set === 'left out' ? calibration : undefined);
    for (const [name, pattern] of Object.entries(PATTERNS))
      if (pattern.every(([, midi]) => kit.drums.has(midi)))
        for (let clip = 0; clip < rounds; clip++)
          await board.add(kit, pattern, createRandom(56_800 + 31 * clip + name.length));
    if (board.clips > 0) scores.push({ set, name: kit.name, ...board.scores() });
  }
  process.stderr.write('\n');
  return {
    scores: scores.sort((a, b) => SETS.indexOf(a.set) - SETS.indexOf(b.set)),
    calibration: calibration.rows(),
  };
}

const SETS: readonly HitScores['set'][] = ['check', 'test', 'choosing', 'left out'];

/** A drum stands for a pitch. */
function asNote<H extends Pick<ReadHit, 'seconds' | 'kind'>>(hit: H) {
  const midi = KEY_OF_KIND[hit.kind];
  return { ...hit, startSeconds: hit.seconds, endSeconds: hit.seconds + NEAR_SECONDS, midi };
}

/** Counts what is read of clips. */
class HitBoard {
  clips = 0;
  private readonly sums = { matched: 0, found: 0, true: 0, kinds: 0, timed: 0, hits: 0, notStruck: 0 };

  constructor(private readonly calibration?: Calibration) {}

  async add(played: Bank | Kit, pattern: Pattern, random: Random): Promise<void> {
    const { samples, strikes } = await makeClip(played, pattern, random);
    const reader = createHitReader(RATE);
    reader.push(samples);
    const hits = keptHits(reader.finish(), SENSITIVITY);
    count(this.sums, strikes, hits);
    this.calibration?.add({ notes: strikes.map(asNote) }, hits.map(asNote));
    this.clips++;
    process.stderr.write('.');
  }

  scores(): Omit<HitScores, 'set' | 'name'> {
    const { matched, found, true: struck, kinds, timed, hits, notStruck } = this.sums;
    const precision = matched / Math.max(1, found);
    const recall = matched / Math.max(1, struck);
    return {
      clips: this.clips,
      precision,
      recall,
      onsetF1: (2 * precision * recall) / Math.max(1e-9, precision + recall),
      kindRight: kinds / Math.max(1, timed),
      notStruck: notStruck / Math.max(1, hits),
    };
  }
}

async function makeClip(played: Bank | Kit, pattern: Pattern, random: Random) {
  const strikes = playPattern(pattern, random);
  const notes = strikes.map(({ seconds, midi, velocity }): SampledNote => ({
    startSeconds: seconds,
    endSeconds: seconds + 0.1,
    midi,
    velocity,
  }));
  const samples = 'drums' in played ? levelled(playKit(played, notes, SECONDS)) : await ofBank(played, notes);
  if (random() < 0.5) addReverb(samples, RATE, 0.05 + 0.1 * random(), 0.3 + 0.5 * random());
  addNoise(samples, 35 + 20 * random(), random);
  return { samples, strikes };
}

async function ofBank(bank: Bank, notes: readonly SampledNote[]): Promise<Float32Array> {
  const { left, right } = await renderPart(
    bank,
    { program: 0, drums: true, notes: [...notes] },
    SECONDS,
    RATE,
  );
  return left.map((value, i) => (value + right[i]) / 2);
}

function levelled(samples: Float32Array): Float32Array {
  const most = samples.reduce((peak, value) => Math.max(peak, Math.abs(value)), 1e-9);
  return samples.map((value) => (PEAK * value) / most);
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
