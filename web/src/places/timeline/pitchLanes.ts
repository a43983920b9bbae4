/** Heights of pitches in the small pictures of the Timeline; drums lie in rows next to each other, whatever their keys. */

export interface PitchLanes {
  low: number;
  high: number;
  /** Of drums: the row of each key, 0 the lowest. */
  rows?: ReadonlyMap<number, number>;
}

/** An octave has room even where the tune is narrower. */
const LEAST_SEMITONES = 12;
const RAIL_PIXELS = 3;
const THIN_RAIL_PIXELS = 1.5;
/** Pictures of fewer pixels have thin rails. */
const LOW_PIXELS = 20;
const TALLEST_HIT_PIXELS = 10;

/** @param midis of all notes of a part, so that a pitch has the same height in each of its passages */
export function pitchLanes(midis: readonly number[], drums: boolean): PitchLanes {
  let [low, high] = [127, 0];
  for (const midi of midis) {
    low = Math.min(low, Math.round(midi));
    high = Math.max(high, Math.round(midi));
  }
  if (!drums) return { low, high };
  const keys = [...new Set(midis.map(Math.round))].sort((a, b) => a - b);
  return { low, high, rows: new Map(keys.map((key, row) => [key, row])) };
}

/** Top edge and height of the mark of a note, in pixels of the box. */
export function markIn(
  { low, high, rows }: PitchLanes,
  midi: number,
  box: { top: number; height: number },
): { y: number; height: number } {
  if (rows) {
    const rowPixels = box.height / Math.max(1, rows.size);
    const height = Math.min(TALLEST_HIT_PIXELS, Math.max(1, rowPixels - 1));
    const row = rows.get(Math.round(midi)) ?? 0;
    return { y: box.top + (rows.size - 1 - row) * rowPixels + (rowPixels - height) / 2, height };
  }
  const span = Math.max(LEAST_SEMITONES, high - low + 2);
  const height = box.height < LOW_PIXELS ? THIN_RAIL_PIXELS : RAIL_PIXELS;
  return { y: box.top + ((high + 1 - midi) / span) * (box.height - height), height };
}
