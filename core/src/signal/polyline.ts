/** Curves that rise in both directions, as few straight lines. */

export interface LinePoint {
  x: number;
  y: number;
}

/**
 * A curve from one x to another, looked at every so often and closer where it bends.
 * @param finest no two points lie closer than this
 * @param bend what lies nearer to a straight line than this is straight
 */
export function sampledCurve(
  yAt: (x: number) => number,
  [from, to]: readonly [number, number],
  { every, finest, bend }: { every: number; finest: number; bend: number },
): LinePoint[] {
  const pointAt = (x: number): LinePoint => ({ x, y: yAt(x) });
  const points = [pointAt(from)];
  const lookCloser = (end: LinePoint): void => {
    const start = points[points.length - 1];
    const middle = pointAt((start.x + end.x) / 2);
    if (Math.abs((start.y + end.y) / 2 - middle.y) > bend && end.x - start.x > finest) {
      lookCloser(middle);
      lookCloser(end);
    } else points.push(end);
  };
  const count = Math.max(1, Math.ceil((to - from) / every));
  for (let i = 1; i <= count; i++) lookCloser(pointAt(from + ((to - from) * i) / count));
  return points;
}

/**
 * Without the points between which nothing bends: each line goes on as long as all on it lie near enough.
 * @param points at least two, ascending in x
 * @param near how far those that are left out may lie from the lines, in y
 */
export function straightened(points: readonly LinePoint[], near: number): LinePoint[] {
  const kept = [points[0]];
  let [least, most] = [-Infinity, Infinity];
  for (let i = 1; i < points.length; i++) {
    const from = kept[kept.length - 1];
    const slope = (more: number) => (points[i].y + more - from.y) / (points[i].x - from.x);
    const straight = slope(0);
    if (straight < least || straight > most) {
      kept.push(points[i - 1]);
      [least, most] = [-Infinity, Infinity];
      i--;
      continue;
    }
    least = Math.max(least, slope(-near));
    most = Math.min(most, slope(near));
  }
  return [...kept, points[points.length - 1]];
}
