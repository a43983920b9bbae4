import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { decodeAudio, mixToMono, type AudioSummary } from '@plundra/core/formats';

const PIECE_BYTES = 1 << 18;

/**
 * Decodes a file on disk in pieces and hands out its mono mix; `onProgress` gets the share of bytes read (0–1).
 */
export async function decodeFile(
  path: string,
  onMono: (samples: Float32Array, sampleRateHz: number) => void,
  onProgress?: (share: number) => void,
): Promise<AudioSummary> {
  const { size } = await stat(path);
  let read = 0;
  async function* pieces() {
    for await (const piece of createReadStream(path, { highWaterMark: PIECE_BYTES })) {
      yield piece as Uint8Array;
      read += (piece as Uint8Array).length;
      onProgress?.(size > 0 ? read / size : 1);
    }
  }
  return decodeAudio(pieces(), (block) => onMono(mixToMono(block.channels), block.sampleRateHz));
}
