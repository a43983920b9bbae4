/**
 * Fits the key of single lines: `npx tsx bench/src/training/fitLineKeys.ts TUNES` writes core/src/reading/chords/lineKeyWeights.json. On
 * pieces of 1 to 8 bars of published tunes whose key is written over them (TUNES is what training/tunes.py writes); printed is how often
 * the key of O'Neill's tunes, which it is not fitted on, is right.
 */
import { writeFileSync } from 'node:fs';
import { ALL_KEYS, BEGINNING_SHARE, lineKeyInputs, type LineUse } from '@plundra/core/reading/training';
import { tonicPitchClass, type Key } from '@plundra/core/theory';
import { loadTunes, type StoredTune, type TuneSet } from '../rhythm/tunes.ts';
import { inTwoModes } from './keyInputs.ts';
import { choose, fitRanking, type Choice } from './ranking.ts';

const RIDGE = 0.002;
const BARS = [1, 2, 4, 8];
/** Where the second part of most tunes begins: loops are cut there too. */
const STARTS = [0, 8];
const FEWEST_NOTES = 3;
/** Old dance tunes are hardly ever in minor; songs are, one in three (from memory), so those that are count so many times. */
const MINOR_TIMES = 3;

interface Known extends Choice {
  right: number;
  bars: number;
}

function linesOf(
  { notes, barQuarters }: StoredTune,
  lengths: readonly number[],
): { line: LineUse; bars: number }[] {
  const end = Math.max(...notes.map(([, each]) => each));
  return STARTS.flatMap((start) =>
    lengths.flatMap((bars) => {
      const [from, to] = [start * barQuarters, (start + bars) * barQuarters];
      const own = notes.filter(([at]) => at >= from && at < to);
      if (own.length < FEWEST_NOTES || to > end + 0.01) return [];
      const useUntil = (until: number) => {
        const use = new Float64Array(12);
        for (const [begins, ends, midi] of own) use[midi % 12] += Math.max(0, Math.min(ends, until) - begins);
        return use;
      };
      const [use, early] = [useUntil(to), useUntil(from + BEGINNING_SHARE * (to - from))];
      return [{ bars, line: { use, early, first: own[0][2] % 12, last: own.at(-1)![2] % 12 } }];
    }),
  );
}

function linesIn(set: TuneSet): Known[] {
  return loadTunes(process.argv[2], set).flatMap((tune, i) => {
    if (!tune.key) return [];
    // To fit, one length of each tune is enough.
    const lengths = set === 'tuning' ? [BARS[i % BARS.length]] : BARS;
    const { tonicClass, mode } = tune.key;
    const is = (key: Key) => key.mode === mode && tonicPitchClass(key) === tonicClass;
    const times = set === 'tuning' && mode === 'minor' ? MINOR_TIMES : 1;
    return linesOf(tune, lengths).flatMap(({ line, bars }) =>
      new Array<Known>(times).fill({
        inputs: ALL_KEYS.map((key) => inTwoModes(key, lineKeyInputs(line, key))),
        wanted: ALL_KEYS.map((key) => (is(key) ? 1 : 0)),
        right: ALL_KEYS.findIndex(is),
        bars,
      }),
    );
  });
}

const weights = fitRanking(linesIn('tuning'), RIDGE).map((value) => Number(value.toFixed(3)));
const count = weights.length / 2;
const left = linesIn('choosing');
for (const bars of BARS) {
  const some = left.filter((each) => each.bars === bars);
  const right = some.filter(({ inputs, right: key }) => choose(inputs, weights) === key).length;
  console.log(`${bars} bars of tunes left out: ${some.length}, right ${(right / some.length).toFixed(3)}`);
}
const path = new URL('../../../core/src/reading/chords/lineKeyWeights.json', import.meta.url);
writeFileSync(path, `${JSON.stringify({ major: weights.slice(0, count), minor: weights.slice(count) })}\n`);
