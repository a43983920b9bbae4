/**
 * How far apart times lie if they were even: the slope of a straight line through all of them (least squares), so that the first and
 * the last do not count more than the others.
 * @param times at least two
 */
export function evenSpacing(times: readonly number[]): number {
  const middle = (times.length - 1) / 2;
  const mean = times.reduce((sum, each) => sum + each, 0) / times.length;
  let [product, square] = [0, 0];
  times.forEach((each, i) => {
    product += (i - middle) * (each - mean);
    square += (i - middle) ** 2;
  });
  return product / square;
}
