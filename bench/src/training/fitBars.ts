/**
 * Fits the choice of metre and first bar line: `npx tsx bench/src/training/fitBars.ts TUNES SONGS` writes
 * core/src/reading/rhythm/barWeights.json. On the pieces that the choice of beats is fitted on (fitBeats.ts; TUNES is what training/tunes.py
 * writes) and on drums alone, a third of them by a machine, none of which the beat network was trained on; those whose beats are found. What
 * it does on patterns and tunes that are left out is printed.
 */
import { writeFileSync } from 'node:fs';
import { computeActivations } from '@plundra/core/reading';
import {
  BAR_CHOICES,
  barChanges,
  barInputs,
  beatEvidence,
  readPulse,
  trackBeats,
} from '@plundra/core/reading/training';
import { loadBank } from '@plundra/demo';
import { beatF } from '../chords/scores.ts';
import { RHYTHM_BANKS, rhythmClip } from '../rhythm/clips.ts';
import { knownPieces, type KnownPiece } from './knownPieces.ts';
import { choose, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.01;
/** A choice whose bar lines have an F-measure lower by this has a share smaller by the factor e. */
const SHARP = 1 / 12;
/** And one of another metre one smaller by this. */
const OTHER_METRE = 0.12;
/** Pieces whose beats agree less with the known ones say nothing of bars. */
const LEAST_BEATS = 0.8;
const FEWEST_BEATS = 5;
/** Rounds of drums alone, three pieces in each. */
const DRUMS = { played: 150, machine: 76 };
const AGAIN = [0, 40_000, 80_000];
const FOLDS = 6;
/** How common metres are (common practice, from memory): pieces count so that each metre has this share. */
const COMMON: Record<string, number> = {
  '4': 0.62,
  '3': 0.13,
  '2 compound': 0.09,
  '2': 0.05,
  '4 compound': 0.05,
  '5': 0.03,
  '7': 0.02,
  '3 compound': 0.01,
};

interface Known extends Choice {
  metre: string;
  pattern: string;
  /** Of each choice, the F-measure of its bar lines, and whether its metre is right. */
  barFs: number[];
  right: boolean[];
}

const nameOf = ({ beats, compound }: KnownPiece['metre']) => `${beats}${compound ? ' compound' : ''}`;
const later = (times: readonly number[]) => times.filter((seconds) => seconds > 1);

async function* drums(): AsyncGenerator<KnownPiece> {
  const banks = await Promise.all(RHYTHM_BANKS.practice.map((name) => loadBank(name)));
  for (const machine of [false, true])
    for (let round = 0; round < DRUMS[machine ? 'machine' : 'played']; round++)
      for (const again of AGAIN) yield rhythmClip('practice', banks, 'drums', round + again, { machine });
}

function known(piece: KnownPiece, heard: Parameters<typeof barInputs>[0]): Known | undefined {
  const { beats } = heard;
  // Of songs without a written metre no bars are known.
  if (piece.downbeats.length === 0) return undefined;
  if (beats.length < FEWEST_BEATS || beatF(later(piece.beats), later(beats)) < LEAST_BEATS) return undefined;
  const metre = nameOf(piece.metre);
  const right = BAR_CHOICES.map((choice) => nameOf({ ...choice, beats: choice.beatsPerBar }) === metre);
  const barFs = BAR_CHOICES.map(({ beatsPerBar, first }) =>
    beatF(
      piece.downbeats,
      beats.filter((_, i) => i % beatsPerBar === first),
    ),
  );
  const odds = barFs.map((f, i) => Math.exp((f - 1) / SHARP) * (right[i] ? 1 : OTHER_METRE));
  const total = odds.reduce((sum, value) => sum + value, 0);
  const wanted = odds.map((value) => value / total);
  process.stderr.write('.');
  return { inputs: barInputs(heard), wanted, metre, pattern: piece.pattern, barFs, right };
}

const all: Known[] = [];
for await (const piece of knownPieces(process.argv[2], process.argv[3])) {
  const activations = computeActivations(piece.samples, { coarse: true });
  const evidence = beatEvidence(piece.samples, activations);
  const beats = trackBeats(evidence).seconds;
  const changes = beats.length > 0 ? barChanges(evidence, activations, beats) : undefined;
  const each = known(piece, { ...evidence.pulse, beats, changes });
  if (each) all.push(each);
}
for await (const piece of drums()) {
  const each = known(piece, readPulse(piece.samples));
  if (each) all.push(each);
}
const metres = Object.keys(COMMON);
const pieces = all.filter(({ metre }) => metres.includes(metre));
for (const each of pieces) {
  const share = pieces.filter(({ metre }) => metre === each.metre).length / pieces.length;
  each.weight = COMMON[each.metre] / share;
}
const fit = (train: Choice[]) => fitRanking(train, RIDGE);
const patterns = [...new Set(pieces.map(({ pattern }) => pattern))].sort();
let [bars, right] = [0, 0];
for (let fold = 0; fold < FOLDS; fold++) {
  const left = new Set(patterns.filter((_, i) => i % FOLDS === fold));
  const weights = fit(pieces.filter(({ pattern }) => !left.has(pattern)));
  for (const each of pieces) {
    if (!left.has(each.pattern)) continue;
    const chosen = choose(each.inputs, weights);
    bars += each.barFs[chosen] / pieces.length;
    right += Number(each.right[chosen]) / pieces.length;
  }
}
console.log(
  `\n${pieces.length} pieces, each of a pattern or tune that was left out: bar lines F ${bars.toFixed(3)}, metre ${right.toFixed(3)}`,
);
const path = new URL('../../../core/src/reading/rhythm/barWeights.json', import.meta.url);
writeFileSync(path, `${JSON.stringify(fit(pieces).map((value) => Number(value.toFixed(4))))}\n`);
