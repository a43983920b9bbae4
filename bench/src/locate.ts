/** Where a sound has gone, found by its envelope. */
const ENVELOPE_HOP = 44;
const ENVELOPE_WINDOW = 220;

/** Where in `output` the sound lies that is at `fromSeconds` in `input`: best match of their envelopes in dB. */
export function locate(
  input: Float32Array,
  fromSeconds: number,
  output: Float32Array,
  nearSeconds: number,
  rate: number,
): number {
  const level = (samples: Float32Array, seconds: number) => {
    const at = Math.round(seconds * rate);
    let sum = 0;
    for (let i = at - ENVELOPE_WINDOW / 2; i < at + ENVELOPE_WINDOW / 2; i++) sum += (samples[i] ?? 0) ** 2;
    return 10 * Math.log10(sum / ENVELOPE_WINDOW + 1e-7);
  };
  const hop = ENVELOPE_HOP / rate;
  const offsets = Array.from({ length: 90 }, (_, i) => (i - 40) * hop);
  const wanted = offsets.map((offset) => level(input, fromSeconds + offset));
  let best = nearSeconds;
  let least = Infinity;
  for (let shift = -80; shift <= 80; shift++) {
    const at = nearSeconds + shift * hop;
    let distance = 0;
    offsets.forEach((offset, i) => (distance += (level(output, at + offset) - wanted[i]) ** 2));
    if (distance < least) {
      least = distance;
      best = at;
    }
  }
  return best;
}
