/**
 * Fits what weighs how much in the key of a loop: `npx tsx bench/src/training/fitLoopKeys.ts [rounds]` prints the weights of
 * core/src/reading/chords/keyOfLoop.ts. On loops that begin on their tonic and, counted half, stretches of arrangements from their
 * beginning and from within; of the banks that the chord model was fitted on.
 */
import { computeActivations } from '@plundra/core/reading';
import { ALL_KEYS, guessKeys, keyEvidence, loopKeyInputs } from '@plundra/core/reading/training';
import { resample } from '@plundra/core/signal';
import { tonicPitchClass, type Key } from '@plundra/core/theory';
import { loadBank } from '@plundra/demo';
import { chordClips } from '../chords/clips.ts';
import { RHYTHM_BANKS, RHYTHM_RATE_HZ, rhythmClip } from '../rhythm/clips.ts';
import { keyOfClip } from '../rhythm/loops.ts';
import { choose, crossValidate, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.001;
/** Rounds of pieces that nothing else was fitted on. */
const FIRST_ROUND = 420;
const FIRST_ARRANGEMENT = 60;
const BARS = [1, 2, 4, 8];
const CUT_BARS = [2, 4];

interface Known extends Choice {
  kind: 'loop' | 'beginning' | 'within';
  right: number;
}

function known(
  kind: Known['kind'],
  samples: Float32Array,
  beats: number[],
  { mode, fifths }: Key,
): Known | undefined {
  const activations = computeActivations(samples, { coarse: true });
  const { use, chords } = keyEvidence(activations, beats);
  // Without chords the line alone says the key.
  if (chords.length === 0) return undefined;
  const inputs = loopKeyInputs({ keys: guessKeys(use, chords), chords }, activations);
  const tonic = tonicPitchClass({ mode, fifths });
  const is = (key: Key) => key.mode === mode && tonicPitchClass(key) === tonic;
  return {
    kind,
    inputs: ALL_KEYS.map((key) => inputs.get(key)!),
    wanted: ALL_KEYS.map((key) => (is(key) ? 1 : 0)),
    right: ALL_KEYS.findIndex(is),
  };
}

async function gather(rounds: number): Promise<Known[]> {
  const all: (Known | undefined)[] = [];
  const banks = await Promise.all(RHYTHM_BANKS.choosing.map((name) => loadBank(name)));
  for (let round = FIRST_ROUND; round < FIRST_ROUND + rounds; round++)
    for (const [i, kind] of (['strums', 'picked', 'line'] as const).entries()) {
      const clip = await rhythmClip('choosing', banks, kind, round, { loop: true });
      const count = Math.min(clip.beats.length, BARS[(round + i) % BARS.length] * clip.metre.beats);
      const seconds = clip.beats[count] ?? clip.durationSeconds;
      const samples = clip.samples.subarray(0, Math.round(seconds * RHYTHM_RATE_HZ));
      all.push(known('loop', samples, clip.beats.slice(0, count), keyOfClip(clip.parts)!));
      process.stderr.write('.');
    }
  let at = 0;
  const until = FIRST_ARRANGEMENT + Math.ceil(rounds / 15);
  for await (const clip of chordClips('tuning', until, 'usual', FIRST_ARRANGEMENT)) {
    const bars = CUT_BARS[at % CUT_BARS.length];
    for (const [kind, begins] of [
      ['beginning', 0],
      ['within', 1 + (at % 3)],
    ] as const) {
      const [from, to] = [clip.downbeats[begins], clip.downbeats[begins + bars]];
      if (to === undefined) continue;
      const cut = clip.samples.slice(
        Math.round(from * clip.sampleRateHz),
        Math.round(to * clip.sampleRateHz),
      );
      const beats = clip.beats
        .filter((each) => each >= from - 0.01 && each < to - 0.01)
        .map((each) => each - from);
      all.push(known(kind, resample(cut, clip.sampleRateHz, RHYTHM_RATE_HZ), beats, clip.key));
    }
    at++;
    process.stderr.write('.');
  }
  process.stderr.write('\n');
  return all.filter((each) => each !== undefined);
}

const all = await gather(Number(process.argv[2] ?? 40));
const counted = (some: readonly Known[]) =>
  some.flatMap((each) => (each.kind === 'loop' ? [each, each] : [each]));
const fit = (train: readonly Known[]) => fitRanking(counted(train), RIDGE);
const weights = fit(all);
for (const kind of ['loop', 'beginning', 'within'] as const) {
  const own = all.filter((each) => each.kind === kind);
  const right = own.filter(({ inputs, right: key }) => choose(inputs, weights) === key).length;
  console.log(`${kind}: ${own.length}, right ${(right / own.length).toFixed(3)}`);
}
console.log(
  'cross-validated',
  crossValidate(
    all,
    (train) => fit(train as Known[]),
    (i, candidate) => (candidate === all[i].right ? 1 : 0),
  ).toFixed(3),
);
console.log('weights', weights.map((value) => value.toFixed(2)).join(' '));
