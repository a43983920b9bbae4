import type { Seconds } from '@plundra/core/signal';

/** Index of the first note that starts at or after a time; notes in order of their start. */
export function firstFrom(notes: readonly { startSeconds: Seconds }[], seconds: Seconds): number {
  let low = 0;
  let high = notes.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (notes[middle].startSeconds < seconds) low = middle + 1;
    else high = middle;
  }
  return low;
}
