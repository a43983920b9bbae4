/**
 * Fits the confidence of notes of chordal recordings on the check clips: `npx tsx bench/src/training/fitNoteConfidence.ts
 * [rounds] [cache]` writes core/src/reading/chordal/confidenceWeights.json. Printed first: how it does on families that it was not
 * fitted on, each left out in turn.
 * `cache` keeps the inputs, which take the time.
 */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { deserialize, serialize } from 'node:v8';
import { createChordalReader, DEFAULT_SENSITIVITY, HOP_SECONDS } from '@plundra/core/reading';
import { contextOf, findNotes, LOWEST_KEY, probabilityOf } from '@plundra/core/reading/training';
import { chordalClips } from '../chordal/clips.ts';
import { matchNotes } from '../metrics.ts';
import { fitSmallNetwork, storedText } from './fitSmallNetwork.ts';

interface Row {
  family: string;
  inputs: Float32Array;
  right: 0 | 1;
}

const SETTINGS = { hidden: 6, epochs: 40, batch: 256, rate: 0.01, ridge: 1e-3 };
const fit = (examples: readonly Row[]) => fitSmallNetwork(examples, SETTINGS);

const rounds = Number(process.argv[2] ?? 24);
const cache = process.argv[3];
const rows = cache && existsSync(cache) ? (deserialize(readFileSync(cache)) as Row[]) : await gather();
if (cache) writeFileSync(cache, serialize(rows));

let loss = 0;
for (const family of new Set(rows.map((row) => row.family))) {
  const weights = fit(rows.filter((row) => row.family !== family));
  for (const { inputs, right } of rows.filter((row) => row.family === family))
    loss -= Math.log(Math.abs(1 - right - probabilityOf(inputs, weights)) + 1e-9);
}
console.log(`${rows.length} notes; left out: loss ${(loss / rows.length).toFixed(4)}`);

writeFileSync(
  new URL('../../../core/src/reading/chordal/confidenceWeights.json', import.meta.url),
  storedText(fit(rows)),
);

async function gather(): Promise<Row[]> {
  const gathered: Row[] = [];
  for await (const clip of chordalClips('check', rounds)) {
    const reader = createChordalReader(clip.sampleRateHz);
    reader.push(clip.samples);
    const activations = reader.finish();
    const found = findNotes(activations, DEFAULT_SENSITIVITY);
    const notes = found.map(({ key, startFrame, endFrame }) => ({
      startSeconds: startFrame * HOP_SECONDS,
      endSeconds: endFrame * HOP_SECONDS,
      midi: LOWEST_KEY + key + activations.tuningCents / 100,
    }));
    const right = new Set(matchNotes(clip.notes, notes).map(([, estimate]) => estimate));
    contextOf(found).forEach((inputs, i) =>
      gathered.push({ family: clip.name, inputs, right: right.has(i) ? 1 : 0 }),
    );
    process.stderr.write('.');
  }
  return gathered;
}
