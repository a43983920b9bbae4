/** One timed reading in a fresh process; prints its speed and the peak memory of the process. */
import { readMelodyFile } from '@plundra/server';

const path = process.argv[2];
const start = performance.now();
const reading = await readMelodyFile(path, 'auto');
const seconds = (performance.now() - start) / 1000;
const audioSeconds = reading.contour.f0Hz.length * reading.contour.hopSeconds;
console.log(
  JSON.stringify({
    timesRealTime: audioSeconds / seconds,
    peakMegabytes: process.resourceUsage().maxRSS / 1024,
  }),
);
