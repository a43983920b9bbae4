/** Reading a signal between its samples, with a windowed sinc of sixteen taps from a table. */
const TAPS = 16;
const PHASES = 128;
const HALF = TAPS / 2;

const TABLE = makeTable();

function makeTable(): Float64Array {
  const table = new Float64Array((PHASES + 1) * TAPS);
  for (let phase = 0; phase <= PHASES; phase++) {
    let sum = 0;
    for (let k = 0; k < TAPS; k++) {
      const x = k - (HALF - 1) - phase / PHASES;
      const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
      // Blackman window over the taps.
      const w = (x + HALF) / TAPS;
      const window = 0.42 - 0.5 * Math.cos(2 * Math.PI * w) + 0.08 * Math.cos(4 * Math.PI * w);
      table[phase * TAPS + k] = sinc * window;
      sum += sinc * window;
    }
    for (let k = 0; k < TAPS; k++) table[phase * TAPS + k] /= sum;
  }
  return table;
}

/** Value at a fractional position; 0 beyond the ends. A whole position gives the sample itself. */
export function readAt(signal: Float32Array, position: number): number {
  const whole = Math.floor(position);
  const phase = Math.round((position - whole) * PHASES);
  if (phase === 0) return whole >= 0 && whole < signal.length ? signal[whole] : 0;
  const row = phase * TAPS;
  const first = whole - (HALF - 1);
  let sum = 0;
  if (first >= 0 && first + TAPS <= signal.length) {
    for (let k = 0; k < TAPS; k++) sum += TABLE[row + k] * signal[first + k];
    return sum;
  }
  for (let k = 0; k < TAPS; k++) sum += TABLE[row + k] * (signal[first + k] ?? 0);
  return sum;
}
