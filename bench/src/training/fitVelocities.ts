/**
 * Fits how velocities of chordal recordings are read: `npx tsx bench/src/training/fitVelocities.ts [rounds]` writes
 * core/src/reading/chordal/velocityWeights.json. Ridge regression of loudness, without its mean over each clip, on the tuning clips;
 * printed is how well the check clips are told.
 */
import { writeFileSync } from 'node:fs';
import { LOUDNESS_INPUTS, loudnessInputs } from '@plundra/core/reading/training';
import { chordalClips, type ChordalSet } from '../chordal/clips.ts';
import { correlation, matchNotes } from '../metrics.ts';
import { findInClip } from './findInClip.ts';

const RIDGE = 30;
/** Common practice: what a tenth of the velocity is softer. */
const DB_PER_DECADE = 40;

interface Clip {
  inputs: Float64Array[];
  /** Of what was played, without its mean. */
  loudnessDb: number[];
}

async function gather(set: ChordalSet, rounds: number): Promise<Clip[]> {
  const clips: Clip[] = [];
  for await (const clip of chordalClips(set, rounds, { lively: true })) {
    const { activations, found, notes } = findInClip(clip);
    const inputs = loudnessInputs(found, activations);
    const pairs = matchNotes(clip.notes, notes);
    const played = pairs.map(([known]) => DB_PER_DECADE * Math.log10(clip.notes[known].velocity));
    const mean = played.reduce((sum, db) => sum + db, 0) / played.length;
    clips.push({
      inputs: pairs.map(([, found]) => inputs[found]),
      loudnessDb: played.map((db) => db - mean),
    });
    process.stderr.write('.');
  }
  return clips;
}

function fit(clips: readonly Clip[]): number[] {
  const inputs = clips.flatMap((clip) => clip.inputs);
  const loudnessDb = clips.flatMap((clip) => clip.loudnessDb);
  const scale = Array.from({ length: LOUDNESS_INPUTS }, (_, k) =>
    Math.sqrt(inputs.reduce((sum, each) => sum + each[k] ** 2, 0) / inputs.length),
  );
  const scaled = inputs.map((each) => Array.from(each, (value, k) => value / scale[k]));
  const matrix = scale.map((_, k) =>
    scale.map((_, l) => scaled.reduce((sum, each) => sum + each[k] * each[l], k === l ? RIDGE : 0)),
  );
  const right = scale.map((_, k) => scaled.reduce((sum, each, i) => sum + each[k] * loudnessDb[i], 0));
  return solved(matrix, right).map((weight, k) => weight / scale[k]);
}

/** Gaussian elimination; the matrix is positive definite. */
function solved(matrix: number[][], right: number[]): number[] {
  const rows = matrix.map((row, i) => [...row, right[i]]);
  const count = rows.length;
  for (let k = 0; k < count; k++)
    for (let i = k + 1; i < count; i++) {
      const factor = rows[i][k] / rows[k][k];
      for (let j = k; j <= count; j++) rows[i][j] -= factor * rows[k][j];
    }
  const solution = new Array<number>(count).fill(0);
  for (let k = count - 1; k >= 0; k--) {
    let left = rows[k][count];
    for (let j = k + 1; j < count; j++) left -= rows[k][j] * solution[j];
    solution[k] = left / rows[k][k];
  }
  return solution;
}

const rounds = Number(process.argv[2] ?? 7);
const weights = fit(await gather('tuning', rounds)).map((weight) => Number(weight.toPrecision(4)));
const check = await gather('check', Math.ceil(rounds / 2));
const told = check.map(({ inputs, loudnessDb }) =>
  correlation(
    inputs.map((each) => each.reduce((sum, value, k) => sum + weights[k] * value, 0)),
    loudnessDb,
  ),
);
console.log(
  `correlation on check clips ${(told.reduce((sum, each) => sum + each, 0) / told.length).toFixed(3)}`,
);
writeFileSync(
  new URL('../../../core/src/reading/chordal/velocityWeights.json', import.meta.url),
  `${JSON.stringify(weights)}\n`,
);
