/**
 * Fits the choice of a loop's beats and metre: `npx tsx bench/src/training/fitLoops.ts SONGS [ROUNDS]` writes
 * core/src/reading/rhythm/loopWeights.json. On loops of patterns by chance, of patterns that are played and cut out of songs (SONGS is what
 * training/songs.py writes), which say what a musician calls a beat; the beat network was trained on none of them, though on pieces with the patterns of "choosing". What it does on patterns that are
 * left out is printed.
 */
import { writeFileSync } from 'node:fs';
import { hearLoop, loopCounts, loopInputs, type LoopCount } from '@plundra/core/reading/training';
import { loadBank } from '@plundra/demo';
import { KINDS } from '../rhythm/compose.ts';
import { RHYTHM_BANKS, RHYTHM_RATE_HZ, rhythmClip } from '../rhythm/clips.ts';
import type { Metre } from '../rhythm/patterns.ts';
import { loopOf, songClips } from '../rhythm/songClips.ts';
import { loadSongs } from '../rhythm/songs.ts';
import { choose, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.02;
/** Rounds of pieces that nothing else was trained on. */
const FIRST = { tuning: 9000, choosing: 300, practice: 300, apart: 300 };
/** Of each of the sets with patterns that are played so many rounds beside one of those by chance. */
const PLAYED_SHARE = 0.5;
const BARS = [1, 2, 4, 8];
const FOLDS = 6;
/** Other stretches than those that beats and bars are fitted on. */
const OF_SONGS = [20, 21, 22, 23, 24, 25];
/** The right number of beats in another metre is better than another tempo. */
const OTHER_METRE = 0.15;

interface Known extends Choice {
  counts: LoopCount[];
  beats: number;
  /** The set and the pattern. */
  pattern: string;
}

function knownLoop(samples: Float32Array, beats: number, metre: Metre, pattern: string): Known[] {
  const heard = hearLoop(samples);
  const counts = loopCounts(heard.durationSeconds);
  const worth = counts.map((count): number =>
    count.beats !== beats
      ? 0
      : count.beatsPerBar === metre.beats && count.compound === metre.compound
        ? 1
        : OTHER_METRE,
  );
  const total = worth.reduce((sum, value) => sum + value, 0);
  if (total === 0) return [];
  const wanted = worth.map((value) => value / total);
  return [{ inputs: loopInputs(heard, counts), wanted, counts, beats, pattern }];
}

async function loopsOfSongs(folder: string): Promise<Known[]> {
  const songs = loadSongs(folder, 'choosing');
  const known: Known[] = [];
  for (const round of OF_SONGS)
    for await (const clip of songClips(songs, 'choosing', round)) {
      for (const bars of BARS) {
        const loop = loopOf(clip, 1, bars);
        if (loop) known.push(...knownLoop(loop.samples, loop.beats, clip.metre, `songs ${clip.song}`));
      }
      process.stderr.write('.');
    }
  return known;
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
        const samples = clip.samples.subarray(0, Math.round(seconds * RHYTHM_RATE_HZ));
        known.push(...knownLoop(samples, beats, clip.metre, `${set} ${clip.pattern}`));
      }
      process.stderr.write('.');
    }
  return known;
}

const [songs, asked = '40'] = process.argv.slice(2);
const rounds = Number(asked);
const chance = await loopsOf('tuning', rounds);
const played: Known[] = [];
for (const set of ['choosing', 'practice', 'apart'] as const)
  played.push(...(await loopsOf(set, Math.round(PLAYED_SHARE * rounds))));
played.push(...(await loopsOfSongs(songs)));
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
