/**
 * Fits the choice of a loop's beats and metre: `npx tsx bench/src/training/fitLoops.ts [ROUNDS]` writes
 * core/src/reading/rhythm/loopWeights.json. On loops of patterns by chance and of patterns that are played, which say what a musician
 * calls a beat; the beat network was trained on none of them, though on pieces with the patterns of "choosing". What it does on patterns that are
 * left out is printed.
 */
import { writeFileSync } from 'node:fs';
import { hearLoop, loopCounts, loopInputs, type LoopCount } from '@plundra/core/reading/training';
import { loadBank } from '@plundra/demo';
import { KINDS } from '../rhythm/compose.ts';
import { RHYTHM_BANKS, RHYTHM_RATE_HZ, rhythmClip } from '../rhythm/clips.ts';
import { choose, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.02;
/** Rounds of pieces that nothing else was trained on. */
const FIRST = { tuning: 9000, choosing: 300, practice: 300, apart: 300 };
/** Of each of the sets with patterns that are played so many rounds beside one of those by chance. */
const PLAYED_SHARE = 0.5;
const BARS = [1, 2, 4, 8];
const FOLDS = 6;
/** The right number of beats in another metre is better than another tempo. */
const OTHER_METRE = 0.15;

interface Known extends Choice {
  counts: LoopCount[];
  beats: number;
  /** The set and the pattern. */
  pattern: string;
}

async function loopsOf(set: keyof typeof FIRST, rounds: number): Promise<Known[]> {
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
          pattern: `${set} ${clip.pattern}`,
        });
      }
      process.stderr.write('.');
    }
  return known;
}

const rounds = Number(process.argv[2] ?? 40);
const chance = await loopsOf('tuning', rounds);
const played: Known[] = [];
for (const set of ['choosing', 'practice', 'apart'] as const)
  played.push(...(await loopsOf(set, Math.round(PLAYED_SHARE * rounds))));
const fit = (train: Choice[]) => fitRanking(train, RIDGE);
const patterns = [...new Set(played.map(({ pattern }) => pattern))];
const right: Record<string, boolean[]> = {};
for (let fold = 0; fold < FOLDS; fold++) {
  const left = new Set(patterns.filter((_, i) => i % FOLDS === fold));
  const weights = fit([...chance, ...played.filter(({ pattern }) => !left.has(pattern))]);
  for (const loop of played)
    if (left.has(loop.pattern))
      (right[loop.pattern.split(' ')[0]] ??= []).push(
        loop.counts[choose(loop.inputs, weights)].beats === loop.beats,
      );
}
for (const [set, each] of Object.entries(right))
  console.log(
    `\n${set}: ${each.length} loops, each of a pattern that was left out`,
    each.filter(Boolean).length / each.length,
  );
const weights = fit([...chance, ...played]).map((value) => Number(value.toFixed(4)));
const path = new URL('../../../core/src/reading/rhythm/loopWeights.json', import.meta.url);
writeFileSync(path, `${JSON.stringify(weights)}\n`);
