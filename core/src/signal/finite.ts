/** A copy in which NaN and infinities are silence; the same array when there are none. */
export function finiteSamples(samples: Float32Array): Float32Array {
  for (let i = 0; i < samples.length; i++)
    if (!Number.isFinite(samples[i])) return samples.map((value) => (Number.isFinite(value) ? value : 0));
  return samples;
}
