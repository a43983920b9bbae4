/**
 * Trains the evidence network of the melody reader on the tuning and check sets and writes its weights into core.
 * `npx tsx bench/src/training/train.ts [rounds] [epochs] [file]`; seeded, about twenty minutes on one core.
 */
import { writeFileSync } from 'node:fs';
import { buildSet } from '../clips/sets.ts';
import { examplesOf } from './examples.ts';
import { trainNetwork, type Example } from './network.ts';

const rounds = Number(process.argv[2] ?? 8);
const epochs = Number(process.argv[3] ?? 14);
const examples: Example[] = [];
let clips = 0;
// Rounds 0 and 1 stay out: they are the part of the sets on which choices are compared.
for (const set of ['tuning', 'check'] as const) {
  for await (const clip of buildSet(set, rounds, 2)) {
    for (const example of examplesOf(clip, clips)) examples.push(example);
    clips++;
  }
}
console.error(`${clips} clips, ${examples.length} frames`);
const weights = trainNetwork(examples, { hiddenSize: 48, epochs, seed: 7, onsetWeight: 2 }, (line) =>
  console.error(line),
);
const encode = (values: Float32Array): string => {
  const most = values.reduce((m, value) => Math.max(m, Math.abs(value)), 0);
  const bytes = Buffer.alloc(values.length * 2);
  values.forEach((value, i) => bytes.writeInt16LE(Math.round((value / most) * 32767), i * 2));
  return JSON.stringify({ scale: most / 32767, int16: bytes.toString('base64') });
};
const target =
  process.argv[4] ?? new URL('../../../core/src/reading/noteEvidenceWeights.json', import.meta.url);
writeFileSync(
  target,
  `{\n  "hiddenSize": ${weights.hiddenSize},\n  "hidden": ${encode(weights.hidden)},\n  "output": ${encode(weights.output)}\n}\n`,
);
