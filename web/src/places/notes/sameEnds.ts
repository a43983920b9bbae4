/** How many items at the start and at the end of two lists are the same ones; they do not overlap. */
export function sameEnds<T>(before: readonly T[], after: readonly T[]): { same: number; sameAtEnd: number } {
  const least = Math.min(before.length, after.length);
  let same = 0;
  while (same < least && before[same] === after[same]) same++;
  let sameAtEnd = 0;
  while (
    sameAtEnd < least - same &&
    before[before.length - 1 - sameAtEnd] === after[after.length - 1 - sameAtEnd]
  )
    sameAtEnd++;
  return { same, sameAtEnd };
}
