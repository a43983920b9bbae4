/**
 * Fits the choice of a loop's beats and metre: `npx tsx bench/src/training/fitLoops.ts [ROUNDS]` writes
 * core/src/reading/rhythm/loopWeights.json. On loops of patterns by chance that the beat network was not trained on; what it does on
 * loops of known patterns, which it is not fitted on, is printed.
 */
import { writeFileSync } from 'node:fs';
import { hearLoop, loopCounts, loopInputs, type LoopCount } from '@plundra/core/reading/training';
import { loadBank } from '@plundra/demo';
import { KINDS } from '../rhythm/compose.ts';
import { RHYTHM_BANKS, RHYTHM_RATE_HZ, rhythmClip } from '../rhythm/clips.ts';
import { choose, crossValidate, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.02;
/** Rounds of pieces that nothing else was trained on. */
const FIRST = { tuning: 6000, choosing: 300 };
const BARS = [1, 2, 4, 8];
/** The right number of beats in another metre is better than another tempo. */
const OTHER_METRE = 0.15;

interface Known extends Choice {
  counts: LoopCount[];
  beats: number;
  what: string;
}

async function loopsOf(set: 'tuning' | 'choosing', rounds: number): Promise<Known[]> {
  const banks = await Promise.all(RHYTHM_BANKS[set].map((name) => loadBank(name)));
  const known: Known[] = [];
  for (let round = FIRST[set]; round < FIRST[set] + rounds; round++)
    for (const kind of KINDS) {
      const clip = await rhythmClip(set, banks, kind, round, { loop: true });
      for (const bars of BARS) {
        const beats = bars * clip.metre.beats;
        if (beats > clip.beats.length) continue;
        const seconds = clip.beats[beats] ?? clip.durationSeconds;
        const heard = hearLoop(clip.samples.subarray(0, Math.round(seconds * RHYTHM_RATE_HZ)));
        const counts = loopCounts(heard.durationSeconds);
        const { metre } = clip;
        const worth = counts.map((count): number =>
          count.beats !== beats
            ? 0
            : count.beatsPerBar === metre.beats && count.compound === metre.compound
              ? 1
              : OTHER_METRE,
        );
        const total = worth.reduce((sum, value) => sum + value, 0);
        if (total === 0) continue;
        known.push({
          inputs: loopInputs(heard, counts),
          wanted: worth.map((value) => value / total),
          counts,
          beats,
          what: `${kind} ${clip.pattern} ${round}, ${metre.beats}${metre.compound ? ' compound' : ''}, ${bars} bars at ${((60 * beats) / seconds).toFixed(0)}`,
        });
      }
      process.stderr.write('.');
    }
  return known;
}

const rounds = Number(process.argv[2] ?? 40);
const tuning = await loopsOf('tuning', rounds);
const fit = (train: Choice[]) => fitRanking(train, RIDGE);
const right = (loop: Known, candidate: number) => Number(loop.counts[candidate].beats === loop.beats);
console.log(
  `\n${tuning.length} loops, cross-validated`,
  crossValidate(tuning, fit, (i, k) => right(tuning[i], k)),
);
const weights = fit(tuning).map((value) => Number(value.toFixed(4)));
const choosing = await loopsOf('choosing', Math.round(rounds / 3));
let sum = 0;
for (const loop of choosing) {
  const chosen = choose(loop.inputs, weights);
  sum += right(loop, chosen);
  if (!right(loop, chosen)) console.log(loop.what, 'found', loop.counts[chosen], 'of', loop.beats);
}
console.log(`${choosing.length} loops of known patterns`, sum / choosing.length);
const path = new URL('../../../core/src/reading/rhythm/loopWeights.json', import.meta.url);
writeFileSync(path, `${JSON.stringify(weights)}\n`);
