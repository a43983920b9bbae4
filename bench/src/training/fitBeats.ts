/**
 * Fits the choice among ways to beat time on the tuning arrangements: `npx tsx bench/src/training/fitBeats.ts [rounds]
 * [cache]` writes core/src/reading/chords/beatWeights.json. The target of each candidate is a share that grows with the F-measure
 * of its beats. `cache` keeps what was heard, which takes the time.
 */
import { writeFileSync } from 'node:fs';
import { beatCandidates, candidateInputs } from '@plundra/core/reading/training';
import { beatF } from '../chords/scores.ts';
import { heardArrangements } from './arrangements.ts';
import { crossValidate, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.01;
/** A candidate whose F-measure is lower by this has a share smaller by the factor e. */
const SHARP = 1 / 15;

const fMeasures: number[][] = [];
const choices: Choice[] = [];
for (const { evidence, beats } of await heardArrangements(Number(process.argv[2] ?? 48), process.argv[3])) {
  const candidates = beatCandidates(evidence.strength);
  const fs = candidates.map(({ seconds }) => beatF(beats, seconds));
  const best = Math.max(...fs);
  const odds = fs.map((f) => Math.exp((f - best) / SHARP));
  const total = odds.reduce((sum, value) => sum + value, 0);
  fMeasures.push(fs);
  choices.push({ inputs: candidateInputs(evidence, candidates), wanted: odds.map((value) => value / total) });
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
