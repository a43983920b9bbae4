/**
 * Fits the chord model on the tuning arrangements: `npx tsx bench/src/training/fitChords.ts [rounds] [cache]` writes
 * core/src/reading/chords/chordWeights.json. Multinomial logistic regression over all chords of the vocabulary, the same
 * weights for all roots; a clip counts with each of its beats. `cache` keeps the inputs, which take the time.
 */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { deserialize, serialize } from 'node:v8';
import { computeActivations } from '@plundra/core/reading';
import { beatInputs, CHORD_KINDS, chromaOf, INPUTS, ROOTS, STATES } from '@plundra/core/reading/training';
import { createRandom } from '@plundra/core/signal';
import { pitchClassOf, type Chord } from '@plundra/core/theory';
import { chordClips, type ChordClip } from '../chords/clips.ts';

interface Row {
  inputs: Float32Array;
  state: number;
}

const NOISE_CLIPS = 4;
const STEPS = 260;
const RIDGE = 1.5e-4;
const rounds = Number(process.argv[2] ?? 12);
const cache = process.argv[3];

const rows: Row[] = cache && existsSync(cache) ? (deserialize(readFileSync(cache)) as Row[]) : await gather();
if (cache) writeFileSync(cache, serialize(rows));
fit(rows);

async function gather(): Promise<Row[]> {
  const gathered: Row[] = [];
  for await (const clip of tuningClips()) {
    const bounds = [...clip.beats, clip.chords[clip.chords.length - 1].endSeconds];
    const spans = chromaOf(computeActivations(clip.samples, { coarse: true }), bounds);
    for (let i = 0; i < spans.length; i++) {
      const middle = (bounds[i] + bounds[i + 1]) / 2;
      const label = clip.chords.find((each) => middle >= each.startSeconds && middle < each.endSeconds);
      if (label) gathered.push({ inputs: beatInputs(spans[i]), state: stateOf(label.chord) });
    }
    process.stderr.write('.');
  }
  // Silence and noise are no chord.
  const random = createRandom(5);
  for (let i = 0; i < NOISE_CLIPS * 40; i++) {
    const inputs = Float32Array.from({ length: INPUTS }, () => (i % 2 ? 0.25 * random() ** 3 : 0));
    gathered.push({ inputs, state: STATES - 1 });
  }
  return gathered;
}

/** Half of them with chords of a beat or two. */
async function* tuningClips(): AsyncGenerator<ChordClip> {
  for (const manner of ['usual', 'quick'] as const) yield* chordClips('tuning', rounds, manner);
}

/** The kind of the vocabulary that holds most of a chord. */
function stateOf(chord: Chord): number {
  const without = (more: string) => chord.degrees.filter((degree) => degree !== more).join(' ');
  const names = [chord.degrees.join(' '), without('9'), without('b7'), without('7')];
  const kind = names
    .map((name) => CHORD_KINDS.findIndex(({ degrees }) => degrees.join(' ') === name))
    .find((index) => index >= 0);
  if (kind === undefined) throw new Error(`No kind for ${chord.degrees.join(' ')}`);
  return kind * ROOTS + pitchClassOf(chord.root)!;
}

function fit(data: Row[]): void {
  const size = INPUTS + 1;
  const count = CHORD_KINDS.length * size + 2;
  const weights = new Float64Array(count);
  const momentum = new Float64Array(count);
  const square = new Float64Array(count);
  const scores = new Float64Array(STATES);
  for (let step = 1; step <= STEPS; step++) {
    const gradient = new Float64Array(count);
    let loss = 0;
    let right = 0;
    for (const { inputs, state } of data) {
      forward(inputs, weights, scores);
      loss -= Math.log(scores[state] + 1e-12);
      let best = 0;
      for (let s = 1; s < STATES; s++) if (scores[s] > scores[best]) best = s;
      if (best === state) right++;
      scores[state] -= 1;
      backward(inputs, scores, gradient);
    }
    const rate = 0.12 * (0.5 + 0.5 * Math.cos((Math.PI * step) / STEPS));
    for (let i = 0; i < count; i++) {
      const g = gradient[i] / data.length + RIDGE * weights[i];
      momentum[i] = 0.9 * momentum[i] + 0.1 * g;
      square[i] = 0.99 * square[i] + 0.01 * g * g;
      const [m, v] = [momentum[i] / (1 - 0.9 ** step), square[i] / (1 - 0.99 ** step)];
      weights[i] -= (rate * m) / (Math.sqrt(v) + 1e-8);
    }
    if (step % 20 === 0)
      console.log(step, 'loss', (loss / data.length).toFixed(4), 'right', (right / data.length).toFixed(4));
  }
  const round = (value: number) => Number(value.toFixed(3));
  const kinds = CHORD_KINDS.map((_, k) => Array.from(weights.subarray(k * size, (k + 1) * size), round));
  const none = Array.from(weights.subarray(count - 2), round);
  const path = new URL('../../../core/src/reading/chords/chordWeights.json', import.meta.url);
  writeFileSync(path, `${JSON.stringify({ kinds, none })}\n`);
}

/** Fills `scores` with probabilities. */
function forward(inputs: Float32Array, weights: Float64Array, scores: Float64Array): void {
  const size = INPUTS + 1;
  const noneAt = CHORD_KINDS.length * size;
  let total = 0;
  for (let i = 0; i < 12; i++) total += inputs[i];
  scores[STATES - 1] = weights[noneAt] * total + weights[noneAt + 1];
  for (let k = 0; k < CHORD_KINDS.length; k++) {
    for (let root = 0; root < ROOTS; root++) {
      let score = weights[k * size + INPUTS];
      for (let group = 0; group < INPUTS; group += 12)
        for (let j = 0; j < 12; j++)
          score += weights[k * size + group + j] * inputs[group + ((root + j) % 12)];
      scores[k * ROOTS + root] = score;
    }
  }
  let most = -Infinity;
  for (const score of scores) most = Math.max(most, score);
  let sum = 0;
  for (let s = 0; s < STATES; s++) sum += scores[s] = Math.exp(scores[s] - most);
  for (let s = 0; s < STATES; s++) scores[s] /= sum;
}

function backward(inputs: Float32Array, errors: Float64Array, gradient: Float64Array): void {
  const size = INPUTS + 1;
  const noneAt = CHORD_KINDS.length * size;
  let total = 0;
  for (let i = 0; i < 12; i++) total += inputs[i];
  gradient[noneAt] += errors[STATES - 1] * total;
  gradient[noneAt + 1] += errors[STATES - 1];
  for (let k = 0; k < CHORD_KINDS.length; k++) {
    for (let root = 0; root < ROOTS; root++) {
      const error = errors[k * ROOTS + root];
      if (Math.abs(error) < 1e-5) continue;
      gradient[k * size + INPUTS] += error;
      for (let group = 0; group < INPUTS; group += 12)
        for (let j = 0; j < 12; j++)
          gradient[k * size + group + j] += error * inputs[group + ((root + j) % 12)];
    }
  }
}
