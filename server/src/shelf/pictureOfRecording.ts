/** The small waveform of a window on a recording. */
import { PICTURE_COLUMNS } from '@plundra/core/shelf';
import { decodePeaks } from '@plundra/core/signal';

/**
 * @param peaks of the whole recording, as they are stored
 * @returns heights from 0 to 255, the tallest 255
 */
export function pictureOfRecording(
  peaks: Uint8Array,
  { offsetSeconds, durationSeconds }: { offsetSeconds: number; durationSeconds: number },
  sampleRateHz: number,
): number[] {
  const bytes = peaks.buffer.slice(peaks.byteOffset, peaks.byteOffset + peaks.byteLength) as ArrayBuffer;
  const columnFrames = (durationSeconds * sampleRateHz) / PICTURE_COLUMNS;
  const levels = decodePeaks(bytes);
  // The coarsest that still has a pair for each column.
  const level = levels.findLast(({ framesPerPair }) => framesPerPair <= columnFrames) ?? levels[0];
  const heights = Array.from({ length: PICTURE_COLUMNS }, (_, column) => {
    const at = (share: number) => (offsetSeconds * sampleRateHz + share * columnFrames) / level.framesPerPair;
    const from = Math.floor(at(column));
    const to = Math.max(from + 1, Math.floor(at(column + 1)));
    let most = 0;
    for (let i = from; i < to; i++)
      most = Math.max(most, Math.abs(level.pairs[2 * i] ?? 0), Math.abs(level.pairs[2 * i + 1] ?? 0));
    return most;
  });
  const tallest = Math.max(1, ...heights);
  return heights.map((height) => Math.round((255 * height) / tallest));
}
