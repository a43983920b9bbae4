/**
 * One timed reading in a fresh process; prints its speed and the peak memory of the process.
 * `speedRun.ts FILE [REFERENCE]`: with the name of a reference that one reads, from samples that are already decoded.
 */
import { readFileSync } from 'node:fs';
import { decodeAudio } from '@plundra/core/formats';
import { readMelodyFile } from '@plundra/server';
import { peakMegabytes } from './peakMemory.ts';
import { loadReferences } from './references.ts';

const [path, referenceName] = process.argv.slice(2);
const reference = referenceName
  ? (await loadReferences()).find((each) => each.name === referenceName)
  : undefined;
const decoded: Float32Array[] = [];
let sampleRateHz = 44100;
if (reference) {
  await decodeAudio([readFileSync(path)], (block) => {
    decoded.push(block.channels[0]);
    ({ sampleRateHz } = block);
  });
}
const start = performance.now();
let audioSeconds: number;
if (reference) {
  const samples = new Float32Array(decoded.reduce((sum, block) => sum + block.length, 0));
  let at = 0;
  for (const block of decoded) {
    samples.set(block, at);
    at += block.length;
  }
  reference.read({
    name: '',
    group: 'instrument',
    kind: 'auto',
    sampleRateHz,
    samples,
    notes: [],
    f0Hz: new Float32Array(0),
  });
  audioSeconds = samples.length / sampleRateHz;
} else {
  const reading = await readMelodyFile(path, 'auto');
  audioSeconds = reading.contour.f0Hz.length * reading.contour.hopSeconds;
}
const seconds = (performance.now() - start) / 1000;
console.log(
  JSON.stringify({
    timesRealTime: audioSeconds / seconds,
    peakMegabytes: peakMegabytes(),
  }),
);
