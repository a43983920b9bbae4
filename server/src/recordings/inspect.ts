/** Worker task: what is in a sound file, and its waveform. Runs once for each recording. */
import { AudioFormatError } from '@plundra/core/formats';
import { createPeakCollector, encodePeaks } from '@plundra/core/signal';
import type { Inspection } from '../store/index.ts';
import { decodeFile } from './soundFile.ts';

/** Errors lose their class between threads; a failure travels as data. */
export type InspectionResult =
  { ok: true; inspection: Inspection } | { ok: false; code: string; message: string };

/** Looks into a file. Throws {@link AudioFormatError}. */
export async function inspectFile(path: string): Promise<Inspection> {
  const peaks = createPeakCollector();
  const { format, sampleRateHz, channels, durationSeconds, warnings } = await decodeFile(path, (mono) =>
    peaks.push(mono),
  );
  return {
    info: { format, sampleRateHz, channels, durationSeconds, warnings },
    peaks: encodePeaks(peaks.finish()),
  };
}

export async function inspect(path: string): Promise<InspectionResult> {
  try {
    return { ok: true, inspection: await inspectFile(path) };
  } catch (error) {
    if (error instanceof AudioFormatError) return { ok: false, code: error.code, message: error.message };
    throw error;
  }
}
