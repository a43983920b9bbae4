/**
 * Fits the choice among ways to beat time: `npx tsx bench/src/training/fitBeats.ts TUNES SONGS` writes
 * core/src/reading/chords/beatWeights.json. On tuning arrangements, pieces, chords with few strokes, and pieces with O'Neill's tunes (TUNES and SONGS are what
 * training/tunes.py and songs.py write), none of which the beat network was trained on. The target of each candidate is a share that grows with
 * the F-measure of its beats.
 */
import { writeFileSync } from 'node:fs';
import { computeActivations } from '@plundra/core/reading';
import { beatCandidates, beatEvidence, candidateInputs } from '@plundra/core/reading/training';
import { beatF } from '../chords/scores.ts';
import { knownPieces } from './knownPieces.ts';
import { crossValidate, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.01;
/** A candidate whose F-measure is lower by this has a share smaller by the factor e. */
const SHARP = 1 / 15;
/** As mir_eval has it: what is found in the first second does not count. */
const FIRST_SECONDS = 1;
const later = (times: readonly number[]) => times.filter((seconds) => seconds > FIRST_SECONDS);
const fMeasures: number[][] = [];
const choices: Choice[] = [];
for await (const { samples, beats } of knownPieces(process.argv[2], process.argv[3])) {
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
