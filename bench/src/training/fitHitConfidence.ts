/**
 * Fits the confidence of hits on clips of the check kit: `npx tsx bench/src/training/fitHitConfidence.ts [rounds]` prints the
 * two numbers of the logistic regression that belong into core/src/reading/hits/readHits.ts, and how often hits of each
 * confidence are right.
 */
import { createHitReader } from '@plundra/core/reading';
import { fittingClips, isStruck } from '../chordal/hits.ts';

const STEPS = 4000;
const RATE = 0.5;

const rounds = Number(process.argv[2] ?? 4);
const examples: { evidence: number; right: number }[] = [];
for await (const { samples, sampleRateHz, strikes } of fittingClips(rounds)) {
  const reader = createHitReader(sampleRateHz);
  reader.push(samples);
  for (const hit of reader.finish())
    examples.push({ evidence: hit.evidence, right: isStruck(hit, strikes) ? 1 : 0 });
}
let [bias, slope] = [0, 1];
const probability = (evidence: number) => 1 / (1 + Math.exp(-(bias + slope * evidence)));
for (let step = 0; step < STEPS; step++) {
  let [down, turn] = [0, 0];
  for (const { evidence, right } of examples) {
    const error = (probability(evidence) - right) / examples.length;
    down += error;
    turn += error * evidence;
  }
  bias -= RATE * 4 * down;
  slope -= RATE * 8 * turn;
}
console.log(`${examples.length} hits: bias ${bias.toFixed(2)}, slope ${slope.toFixed(2)}`);
for (let from = 0; from < 1; from += 0.2) {
  const within = examples.filter(
    ({ evidence }) => probability(evidence) >= from && probability(evidence) < from + 0.2,
  );
  const right = within.reduce((sum, each) => sum + each.right, 0) / Math.max(1, within.length);
  console.log(
    `${from.toFixed(1)}–${(from + 0.2).toFixed(1)}: ${within.length} hits, ${(100 * right).toFixed(0)} % right`,
  );
}
