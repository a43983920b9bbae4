/** The recording of a passage as it sounds with its corrections, as a WAV file of 32-bit floats: what was not touched stays exact. */
import { createReadStream } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { melodyResultSchema } from '@plundra/contract';
import { decodeWhole, encodeWav } from '@plundra/core/formats';
import type { Contour } from '@plundra/core/reading';
import { applyPatches, renderWanted, type Wanted } from '@plundra/core/retune';

export interface CorrectedSoundTask {
  path: string;
  /** Result of the reading behind the line. */
  readingPath: string | undefined;
  wanted: Wanted | null;
  fromSeconds: number;
  toSeconds: number;
  resultPath: string;
}

export async function writeCorrectedSound(task: CorrectedSoundTask): Promise<void> {
  const { samples: recorded, sampleRateHz } = await decodeWhole(createReadStream(task.path));
  const contour = task.readingPath ? await readContour(task.readingPath) : undefined;
  const { patches } = task.wanted
    ? renderWanted(recorded, sampleRateHz, contour, task.wanted)
    : { patches: [] };
  const sound = applyPatches(recorded, patches).map((channel) =>
    channel.subarray(Math.round(task.fromSeconds * sampleRateHz), Math.round(task.toSeconds * sampleRateHz)),
  );
  await writeFile(task.resultPath, encodeWav(sound, sampleRateHz, true));
}

async function readContour(path: string): Promise<Contour> {
  const { contour } = melodyResultSchema.parse(JSON.parse(await readFile(path, 'utf8')));
  return {
    hopSeconds: contour.hopSeconds,
    f0Hz: Float32Array.from(contour.f0Hz),
    confidence: Float32Array.from(contour.confidence),
  };
}
