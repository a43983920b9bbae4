import { decodeAudio, type AudioSummary } from './decodeAudio.ts';

/**
 * Decodes a file and holds all of its channels, each of `frames` samples: for work that needs the whole sound. Throws
 * what {@link decodeAudio} throws.
 */
export async function decodeWhole(
  pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
): Promise<AudioSummary & { samples: Float32Array[] }> {
  const blocks: Float32Array[][] = [];
  const summary = await decodeAudio(pieces, (block) => {
    // A decoder may use its arrays again.
    blocks.push(block.channels.map((channel) => channel.slice()));
  });
  const samples = Array.from({ length: summary.channels }, (_, c) => {
    const whole = new Float32Array(summary.frames);
    let at = 0;
    for (const block of blocks) {
      whole.set(block[c], at);
      at += block[c].length;
    }
    return whole;
  });
  return { ...summary, samples };
}
