/** Quantile `q` (0–1) of `values` by linear interpolation; NaN for an empty list. Does not reorder the input. */
export function quantile(values: ArrayLike<number>, q: number): number {
  if (values.length === 0) return NaN;
  const sorted = Float64Array.from(values).sort();
  const position = Math.min(Math.max(q, 0), 1) * (sorted.length - 1);
  const below = Math.floor(position);
  const above = Math.min(below + 1, sorted.length - 1);
  return sorted[below] + (sorted[above] - sorted[below]) * (position - below);
}

/** Middle value; NaN for an empty list. */
export function median(values: ArrayLike<number>): number {
  return quantile(values, 0.5);
}

/** Weighted median: the value at which half of the total weight is reached. NaN when all weights are 0. */
export function weightedMedian(values: ArrayLike<number>, weights: ArrayLike<number>): number {
  const order = Array.from({ length: values.length }, (_, i) => i).sort((a, b) => values[a] - values[b]);
  let total = 0;
  for (let i = 0; i < weights.length; i++) total += weights[i];
  if (!(total > 0)) return NaN;
  let reached = 0;
  for (const i of order) {
    reached += weights[i];
    if (reached >= total / 2) return values[i];
  }
  return values[order[order.length - 1]];
}

export function clamp(value: number, low: number, high: number): number {
  return value < low ? low : value > high ? high : value;
}
