/**
 * One timed reading in a fresh process, decoding included: `speedRun.ts FILE notes|chords`; prints its speed and the peak
 * memory of the process.
 */
import { DEFAULT_SENSITIVITY } from '@plundra/core/reading';
import { notesOf, readActivationsFile, readChordsFiles } from '@plundra/server';
import { peakMegabytes } from '../peakMemory.ts';

const [path, what] = process.argv.slice(2);
const start = performance.now();
const activationsSeconds = 256 / 22050;
let audioSeconds: number;
if (what === 'notes') {
  const activations = await readActivationsFile(path);
  notesOf(activations, 100 * DEFAULT_SENSITIVITY);
  audioSeconds = activations.frames * activationsSeconds;
} else {
  const { chords } = await readChordsFiles([{ path, laterSeconds: 0 }]);
  audioSeconds = chords.at(-1)!.endSeconds;
}
const seconds = (performance.now() - start) / 1000;
console.log(
  JSON.stringify({
    seconds,
    timesRealTime: audioSeconds / seconds,
    peakMegabytes: peakMegabytes(),
  }),
);
