/** A stream of numbers in [0, 1); the same seed gives the same stream on every machine. */
export type Random = () => number;

/** Seeded generator (mulberry32, public domain, T. Ettinger). `seed`: any 32-bit integer. */
export function createRandom(seed: number): Random {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = state;
    mixed = Math.imul(mixed ^ (mixed >>> 15), mixed | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

/** One draw from the normal distribution with mean 0 and deviation 1 (Box & Muller 1958). */
export function gaussian(random: Random): number {
  const radius = Math.sqrt(-2 * Math.log(1 - random()));
  return radius * Math.cos(2 * Math.PI * random());
}
