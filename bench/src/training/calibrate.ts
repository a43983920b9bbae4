/**
 * Fits the confidence of notes on what the network was not trained on: rounds 0 and 1 of the tuning set, and the voices that
 * choices are made on. Shows how often notes of each confidence are right. `npx tsx bench/src/training/calibrate.ts`; the printed weights belong
 * into noteMeasures.ts.
 */
import { resample } from '@plundra/core/signal';
import { READING_HZ, readMelody } from '@plundra/core/reading';
import {
  confidenceInputs,
  createFeatureStream,
  gatherEvidence,
  KINDS,
  segmentNotes,
  trackPitch,
  weighEvidence,
} from '@plundra/core/reading/training';
import type { Clip } from '../clips/clip.ts';
import { ROUGHNESSES } from '../clips/degrade.ts';
import { buildSet } from '../clips/sets.ts';
import { SPOKEN_VOICES } from '../clips/spokenSyllables.ts';
import { chanceSinger, sungClip } from '../clips/sungClips.ts';
import { matchNotes } from '../metrics.ts';

const ROUNDS = 2;
const STEPS = 4000;
const RIDGE = 2e-4;

const rows: { inputs: number[]; right: number }[] = [];
for await (const clip of clips()) {
  const stream = createFeatureStream(KINDS[clip.kind === 'auto' ? 'wide' : clip.kind]);
  stream.push(resample(clip.samples, clip.sampleRateHz, READING_HZ));
  const features = stream.finish();
  const track = trackPitch(features);
  const evidence = weighEvidence(features, track);
  const kind = clip.kind === 'auto' ? undefined : clip.kind;
  const { notes: sure, faintNotes } = readMelody(clip.samples, clip.sampleRateHz, kind);
  const notes = [...sure, ...faintNotes].sort((a, b) => a.startSeconds - b.startSeconds);
  const right = new Set(matchNotes(clip.notes, notes).map(([, estimate]) => estimate));
  const segments = segmentNotes(evidence, track);
  if (segments.length !== notes.length) continue;
  segments.forEach((segment, i) => {
    rows.push({
      inputs: confidenceInputs(gatherEvidence(segment, notes[i].midi, track, evidence)),
      right: right.has(i) ? 1 : 0,
    });
  });
}

async function* clips(): AsyncGenerator<Clip> {
  yield* buildSet('tuning', ROUNDS);
  for (const voice of SPOKEN_VOICES.choosing)
    for (const [i, roughness] of [undefined, undefined, undefined, undefined, ...ROUGHNESSES].entries())
      yield sungClip(chanceSinger(voice, 400 + i, roughness), 4000 + i);
}

const weights = rows[0].inputs.map(() => 0);
const probability = (inputs: number[]) =>
  1 / (1 + Math.exp(-inputs.reduce((sum, value, i) => sum + value * weights[i], 0)));
for (let step = 0; step < STEPS; step++) {
  const gradient = weights.map((weight, i) => (i > 0 ? RIDGE * weight : 0));
  for (const { inputs, right } of rows) {
    const error = (probability(inputs) - right) / rows.length;
    inputs.forEach((value, i) => (gradient[i] += error * value));
  }
  gradient.forEach((value, i) => (weights[i] -= 2 * value));
}
console.log(
  'weights',
  weights.map((weight) => Number(weight.toFixed(2))),
);
for (const [low, high] of [
  [0, 0.2],
  [0.2, 0.4],
  [0.4, 0.6],
  [0.6, 0.8],
  [0.8, 0.9],
  [0.9, 0.95],
  [0.95, 1.01],
]) {
  const inside = rows.filter(({ inputs }) => probability(inputs) >= low && probability(inputs) < high);
  const share = inside.reduce((sum, row) => sum + row.right, 0) / Math.max(1, inside.length);
  console.log(`${low}–${Math.min(1, high)}: ${inside.length} notes, ${(100 * share).toFixed(0)} % right`);
}
