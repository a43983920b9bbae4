/**
 * Waveform pictures: for each span of samples the lowest and highest value, at several resolutions, so that a
 * picture of any zoom draws at most a few values a pixel. Values are quantised to signed bytes (1/127).
 */
export interface PeakLevel {
  /** Samples covered by one pair. */
  framesPerPair: number;
  /** `[min0, max0, min1, max1, …]`, −127…127. */
  pairs: Int8Array;
}

/** Samples a pair at the finest level; each further level covers {@link LEVEL_FACTOR} times as many. */
export const FINEST_FRAMES_PER_PAIR = 64;
export const LEVEL_FACTOR = 8;
const LEVELS = 4;

/** Collects peaks of a stream of samples in −1…1 (louder ones are clipped in the picture only). */
export function createPeakCollector(): { push(samples: Float32Array): void; finish(): PeakLevel[] } {
  let pairs = new Int8Array(2048);
  let pairCount = 0;
  let low = 0;
  let high = 0;
  let filled = 0;

  const close = () => {
    if (pairCount * 2 + 2 > pairs.length) {
      const grown = new Int8Array(pairs.length * 2);
      grown.set(pairs);
      pairs = grown;
    }
    pairs[pairCount * 2] = Math.max(-127, Math.round(low * 127));
    pairs[pairCount * 2 + 1] = Math.min(127, Math.round(high * 127));
    pairCount++;
    filled = 0;
  };

  return {
    push(samples) {
      for (let i = 0; i < samples.length; i++) {
        const value = samples[i];
        if (filled === 0) low = high = value;
        else if (value < low) low = value;
        else if (value > high) high = value;
        if (++filled === FINEST_FRAMES_PER_PAIR) close();
      }
    },
    finish() {
      if (filled > 0) close();
      const levels: PeakLevel[] = [
        { framesPerPair: FINEST_FRAMES_PER_PAIR, pairs: pairs.slice(0, pairCount * 2) },
      ];
      while (levels.length < LEVELS) levels.push(coarser(levels[levels.length - 1]));
      return levels;
    },
  };
}

function coarser(level: PeakLevel): PeakLevel {
  const fine = level.pairs;
  const count = Math.ceil(fine.length / 2 / LEVEL_FACTOR);
  const pairs = new Int8Array(count * 2);
  for (let i = 0; i < count; i++) {
    let low = 127;
    let high = -127;
    const end = Math.min(fine.length / 2, (i + 1) * LEVEL_FACTOR);
    for (let k = i * LEVEL_FACTOR; k < end; k++) {
      if (fine[k * 2] < low) low = fine[k * 2];
      if (fine[k * 2 + 1] > high) high = fine[k * 2 + 1];
    }
    pairs[i * 2] = low;
    pairs[i * 2 + 1] = high;
  }
  return { framesPerPair: level.framesPerPair * LEVEL_FACTOR, pairs };
}

/** Levels as bytes: the number of levels, then for each its samples a pair, its length and its pairs. */
export function encodePeaks(levels: readonly PeakLevel[]): Uint8Array {
  const size = 4 + levels.reduce((sum, level) => sum + 8 + level.pairs.length, 0);
  const bytes = new Uint8Array(size);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, levels.length, true);
  let at = 4;
  for (const { framesPerPair, pairs } of levels) {
    view.setUint32(at, framesPerPair, true);
    view.setUint32(at + 4, pairs.length, true);
    bytes.set(new Uint8Array(pairs.buffer, pairs.byteOffset, pairs.length), at + 8);
    at += 8 + pairs.length;
  }
  return bytes;
}

/** Inverse of {@link encodePeaks}. */
export function decodePeaks(bytes: ArrayBuffer): PeakLevel[] {
  const view = new DataView(bytes);
  let at = 4;
  return Array.from({ length: view.getUint32(0, true) }, () => {
    const framesPerPair = view.getUint32(at, true);
    const length = view.getUint32(at + 4, true);
    const pairs = new Int8Array(bytes, at + 8, length);
    at += 8 + length;
    return { framesPerPair, pairs };
  });
}
