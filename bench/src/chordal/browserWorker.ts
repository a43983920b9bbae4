/** Runs in a worker of the browser: reads the samples that it is given and answers with the seconds it took. */
import { createChordalReader, decodeNotes, DEFAULT_SENSITIVITY } from '@plundra/core/reading';

addEventListener('message', ({ data }: MessageEvent<{ samples: Float32Array; sampleRateHz: number }>) => {
  const start = performance.now();
  const reader = createChordalReader(data.sampleRateHz);
  reader.push(data.samples);
  const notes = decodeNotes(reader.finish(), { sensitivity: DEFAULT_SENSITIVITY });
  postMessage({ seconds: (performance.now() - start) / 1000, notes: notes.length });
});
