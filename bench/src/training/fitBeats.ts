/**
 * Fits the choice among ways to beat time: `npx tsx bench/src/training/fitBeats.ts TUNES` writes
 * core/src/reading/chords/beatWeights.json. On tuning arrangements, pieces, chords with few strokes, and pieces with O'Neill's tunes (TUNES is what
 * training/tunes.py writes), none of which the beat network was trained on. The target of each candidate is a share that grows with
 * the F-measure of its beats.
 */
import { writeFileSync } from 'node:fs';
import { computeActivations } from '@plundra/core/reading';
import { beatCandidates, beatEvidence, candidateInputs } from '@plundra/core/reading/training';
import { loadBank } from '@plundra/demo';
import { chordClips } from '../chords/clips.ts';
import { beatF } from '../chords/scores.ts';
import { RHYTHM_BANKS, rhythmClip } from '../rhythm/clips.ts';
import { SPARSE_STRUMS } from '../rhythm/strums.ts';
import { loadTunes } from '../rhythm/tunes.ts';
import { crossValidate, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.01;
/** A candidate whose F-measure is lower by this has a share smaller by the factor e. */
const SHARP = 1 / 15;
/** As mir_eval has it: what is found in the first second does not count. */
const FIRST_SECONDS = 1;
/** Arrangements up to these rounds, quick ones too; the network was trained on others. */
const ARRANGEMENTS = { slow: 10, quick: 5 };
const PIECES = [...rounds(200, 245), ...rounds(301, 360, 2)];
const OTHER_PIECES = rounds(500, 561);
const WITH_TUNES = [...rounds(200, 209), ...rounds(300, 361, 6)];
/** Chords with few strokes in a bar: their beat is hardly played, so much is to be learned from what they leave out. */
const SPARSE = rounds(7000, 7220);
const KINDS = ['strums', 'picked', 'line', 'band'] as const;
/** Lines without harmony are the hardest, so there are more of them. */
const TUNE_KINDS = ['line', 'strums', 'line', 'picked', 'line', 'band', 'band'] as const;

function rounds(from: number, to: number, step = 1): number[] {
  return Array.from({ length: Math.ceil((to - from) / step) }, (_, i) => from + step * i);
}

async function* played(): AsyncGenerator<{ samples: Float32Array; beats: number[] }> {
  yield* chordClips('tuning', ARRANGEMENTS.slow);
  yield* chordClips('tuning', ARRANGEMENTS.quick, 'quick');
  const banks = await Promise.all(RHYTHM_BANKS.tuning.map((name) => loadBank(name)));
  // Drums alone are left to the network.
  for (const kind of KINDS) {
    for (const round of PIECES) yield rhythmClip('tuning', banks, kind, round);
    for (const [i, round] of OTHER_PIECES.entries()) {
      yield rhythmClip('practice', banks, kind, round);
      if (i % 3 === 0) yield rhythmClip('apart', banks, kind, round);
    }
  }
  for (const round of SPARSE) yield rhythmClip('practice', banks, 'strums', round, { strums: SPARSE_STRUMS });
  const tunes = loadTunes(process.argv[2], 'choosing');
  for (const round of WITH_TUNES)
    for (const [i, kind] of TUNE_KINDS.entries()) {
      const again = TUNE_KINDS.slice(0, i).filter((each) => each === kind).length;
      yield rhythmClip('choosing', banks, kind, round + 40_000 * again, { tunes });
    }
}

const later = (times: readonly number[]) => times.filter((seconds) => seconds > FIRST_SECONDS);
const fMeasures: number[][] = [];
const choices: Choice[] = [];
for await (const { samples, beats } of played()) {
  const evidence = beatEvidence(samples, computeActivations(samples, { coarse: true }));
  const candidates = beatCandidates(evidence);
  const fs = candidates.map(({ seconds }) => beatF(later(beats), later(seconds)));
  const best = Math.max(...fs);
  const odds = fs.map((f) => Math.exp((f - best) / SHARP));
  const total = odds.reduce((sum, value) => sum + value, 0);
  fMeasures.push(fs);
  choices.push({ inputs: candidateInputs(evidence, candidates), wanted: odds.map((value) => value / total) });
  process.stderr.write('.');
}
const fit = (train: Choice[]) => fitRanking(train, RIDGE);
console.log('best candidate', mean(fMeasures.map((fs) => Math.max(...fs))).toFixed(4));
console.log(
  'cross-validated',
  crossValidate(choices, fit, (i, candidate) => fMeasures[i][candidate]).toFixed(4),
);
const path = new URL('../../../core/src/reading/chords/beatWeights.json', import.meta.url);
writeFileSync(path, `${JSON.stringify(fit(choices).map((value) => Number(value.toFixed(4))))}\n`);

function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}
