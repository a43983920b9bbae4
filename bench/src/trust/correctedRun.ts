/** One corrected sound in a process of its own: `correctedRun.ts FILE RECORDED FROM TO RESULT`, in seconds; says its peak memory. */
import { peakMegabytes } from '../peakMemory.ts';
import { writeCorrectedSound } from '../../../server/src/recordings/correctedSound.ts';

const [path, recorded, from, to, resultPath] = process.argv.slice(2);
const [recordedSeconds, fromSeconds, toSeconds] = [recorded, from, to].map(Number);
const onsets = Array.from({ length: Math.floor(recordedSeconds) }, (_, i) => ({
  id: `o${i}`,
  fromSeconds: i + 0.5,
  toSeconds: i + 0.5 + (i % 3 === 0 ? 0 : 0.02),
}));
const started = performance.now();
await writeCorrectedSound({
  path,
  recordedSeconds,
  readingPath: undefined,
  spec: { as: 'stretch', stretch: { onsets, semitones: 0, how: 'stretch', fromSeconds, toSeconds } },
  fromSeconds,
  toSeconds,
  resultPath,
});
console.log(
  JSON.stringify({
    seconds: (performance.now() - started) / 1000,
    megabytes: peakMegabytes(),
  }),
);
