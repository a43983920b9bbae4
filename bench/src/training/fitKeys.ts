/**
 * Fits the choice of the key on the tuning arrangements: `npx tsx bench/src/training/fitKeys.ts [rounds] [cache]` writes
 * core/src/reading/chords/keyWeights.json. Weights stay near those of common practice unless the arrangements say otherwise.
 */
import { writeFileSync } from 'node:fs';
import { ALL_KEYS, KEY_INPUTS, keyEvidence, keyInputs } from '@plundra/core/reading/training';
import { tonicPitchClass, type Key } from '@plundra/core/theory';
import { heardArrangements } from './arrangements.ts';
import { inTwoModes } from './keyInputs.ts';
import { choose, crossValidate, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.1;
/**
 * Chosen by hand before: correlation with the profile, share of chords that belong to the key, of its chord of rest, and
 * that chord first and last.
 */
const BY_HAND = Array.from({ length: KEY_INPUTS }, (_, i) => [0, 5, 20, 3, 2.5, 2.5][i] ?? 0);

const right: number[] = [];
const choices: Choice[] = [];
for (const { key, beats, activations } of await heardArrangements(
  Number(process.argv[2] ?? 48),
  process.argv[3],
)) {
  const { use, chords } = keyEvidence(activations, beats);
  right.push(ALL_KEYS.findIndex((each) => sameKey(each, key)));
  choices.push({
    inputs: ALL_KEYS.map((each) => inTwoModes(each, keyInputs(use, chords, each))),
    wanted: ALL_KEYS.map((each) => (sameKey(each, key) ? 1 : 0)),
  });
}
const fit = (train: Choice[]) => fitRanking(train, RIDGE, [...BY_HAND, ...BY_HAND]);
const share = crossValidate(choices, fit, (i, candidate) => (candidate === right[i] ? 1 : 0));
console.log(
  'by hand',
  mean(
    choices.map(({ inputs }, i) => (choose(inputs, [...BY_HAND, ...BY_HAND]) === right[i] ? 1 : 0)),
  ).toFixed(4),
);
console.log('cross-validated', share.toFixed(4));
const weights = fit(choices).map((value) => Number(value.toFixed(3)));
const path = new URL('../../../core/src/reading/chords/keyWeights.json', import.meta.url);
writeFileSync(
  path,
  `${JSON.stringify({ major: weights.slice(0, KEY_INPUTS), minor: weights.slice(KEY_INPUTS) })}\n`,
);

function sameKey(a: Key, b: Key): boolean {
  return a.mode === b.mode && tonicPitchClass(a) === tonicPitchClass(b);
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}
