/**
 * Fits where notes of chordal recordings end: `npx tsx bench/src/training/fitNoteEnds.ts [rounds] [cache]` writes
 * core/src/reading/chordal/noteEndWeights.json, on the tuning clips and the check clips. Printed first: what share of ends is right
 * (within 50 ms or a fifth of the length) of families that it was not fitted on, beside the ends as they are found. `cache` keeps the
 * inputs, which take the time.
 */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { deserialize, serialize } from 'node:v8';
import { createChordalReader, DEFAULT_SENSITIVITY, HOP_SECONDS } from '@plundra/core/reading';
import {
  endChoices,
  findNotes,
  logOddsOf,
  LOWEST_KEY,
  noteConfidences,
} from '@plundra/core/reading/training';
import { chordalClips } from '../chordal/clips.ts';
import { matchNotes } from '../metrics.ts';
import { fitSmallNetwork, storedText, type Example } from './fitSmallNetwork.ts';

const SETTINGS = { hidden: 16, epochs: 6, batch: 1024, rate: 0.005, ridge: 1e-6 };
/** As decodeNotes keeps them at the usual sensitivity. */
const MIN_CONFIDENCE = 0.45;
const NEAR_FRAMES = 0.05 / HOP_SECONDS;
const NEAR_SHARE = 0.2;

interface Known {
  /** Bank and kind of instrument. */
  family: string;
  fromFrame: number;
  foundEnd: number;
  inputs: Float32Array[];
  /** In frames: where it ends, and how far off counts as right. */
  end: number;
  near: number;
}

async function gather(set: 'tuning' | 'check', rounds: number, held: boolean): Promise<Known[]> {
  const known: Known[] = [];
  for await (const clip of chordalClips(set, rounds, { held })) {
    const reader = createChordalReader(clip.sampleRateHz);
    reader.push(clip.samples);
    const activations = reader.finish();
    const all = findNotes(activations, DEFAULT_SENSITIVITY);
    const confidences = noteConfidences(all);
    const found = all.filter((_, i) => confidences[i] >= MIN_CONFIDENCE);
    const notes = found.map(({ key, startFrame, endFrame }) => ({
      startSeconds: startFrame * HOP_SECONDS,
      endSeconds: endFrame * HOP_SECONDS,
      midi: LOWEST_KEY + key + activations.tuningCents / 100,
    }));
    const choices = endChoices(found, activations);
    for (const [reference, i] of matchNotes(clip.notes, notes)) {
      const { startSeconds, endSeconds } = clip.notes[reference];
      known.push({
        family: `${set} ${held ? 'held' : clip.group}`,
        ...choices[i],
        foundEnd: found[i].endFrame,
        end: endSeconds / HOP_SECONDS,
        near: Math.max(NEAR_FRAMES, (NEAR_SHARE * (endSeconds - startSeconds)) / HOP_SECONDS),
      });
    }
    process.stderr.write('.');
  }
  return known;
}

async function gatherAll(): Promise<Known[]> {
  const all: Known[] = [];
  for (const held of [true, false])
    for (const set of ['tuning', 'check'] as const)
      all.push(
        ...(await gather(set, Math.ceil((rounds * (set === 'check' ? 4 : 3)) / (held ? 6 : 3)), held)),
      );
  process.stderr.write('\n');
  return all;
}

/** A frame counts the more the nearer the end must be told. */
const examplesOf = (known: readonly Known[]): Example[] =>
  known.flatMap(({ inputs, fromFrame, end, near }) =>
    inputs.map((each, k) => ({
      inputs: each,
      right: fromFrame + k < end ? 1 : 0,
      weight: NEAR_FRAMES / near,
    })),
  );
const fit = (known: readonly Known[]) => fitSmallNetwork(examplesOf(known), SETTINGS);

const rounds = Number(process.argv[2] ?? 3);
const cache = process.argv[3];
const known = cache && existsSync(cache) ? (deserialize(readFileSync(cache)) as Known[]) : await gatherAll();
if (cache) writeFileSync(cache, serialize(known));
for (const family of new Set(known.map((each) => each.family))) {
  const [set] = family.split(' ');
  const network = fit(known.filter((each) => !each.family.startsWith(set)));
  const own = known.filter((each) => each.family === family);
  const share = (right: (each: Known) => boolean) => (own.filter(right).length / own.length).toFixed(3);
  const found = share(({ foundEnd, end, near }) => Math.abs(foundEnd - end) <= near);
  const fitted = share(({ fromFrame, inputs, end, near }) => {
    let [at, sum, most] = [fromFrame, 0, 0];
    inputs.forEach((each, k) => {
      sum += logOddsOf(each, network);
      if (sum > most) [at, most] = [fromFrame + k + 1, sum];
    });
    return Math.abs(at - end) <= near;
  });
  console.log(`${family}, fitted on the other banks: ${own.length} notes, ends right ${found} → ${fitted}`);
}
writeFileSync(
  new URL('../../../core/src/reading/chordal/noteEndWeights.json', import.meta.url),
  storedText(fit(known)),
);
