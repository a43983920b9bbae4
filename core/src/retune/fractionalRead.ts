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

/**
 * Adds `count` values from a fractional position on, one sample apart, to `out`, each times its weight. The fraction is
 * the same for all of them, so one row of the table serves.
 */
export function addRun(
  signal: Float32Array,
  position: number,
  weights: Float64Array,
  count: number,
  out: Float64Array,
  outAt: number,
): void {
  let whole = Math.floor(position);
  let phase = Math.round((position - whole) * PHASES);
  if (phase === PHASES) {
    whole++;
    phase = 0;
  }
  const first = whole - (HALF - 1);
  if (first < 0 || first + count + TAPS > signal.length) {
    for (let i = 0; i < count; i++) out[outAt + i] += weights[i] * readAt(signal, position + i);
    return;
  }
  if (phase === 0) {
    for (let i = 0; i < count; i++) out[outAt + i] += weights[i] * signal[whole + i];
    return;
  }
  // Written out because a loop over sixteen taps takes several times as long.
  const [r0, r1, r2, r3, r4, r5, r6, r7, r8, r9, r10, r11, r12, r13, r14, r15] = TABLE.subarray(
    phase * TAPS,
    (phase + 1) * TAPS,
  );
  for (let i = 0; i < count; i++) {
    const at = first + i;
    out[outAt + i] +=
      weights[i] *
      (r0 * signal[at] +
        r1 * signal[at + 1] +
        r2 * signal[at + 2] +
        r3 * signal[at + 3] +
        r4 * signal[at + 4] +
        r5 * signal[at + 5] +
        r6 * signal[at + 6] +
        r7 * signal[at + 7] +
        r8 * signal[at + 8] +
        r9 * signal[at + 9] +
        r10 * signal[at + 10] +
        r11 * signal[at + 11] +
        r12 * signal[at + 12] +
        r13 * signal[at + 13] +
        r14 * signal[at + 14] +
        r15 * signal[at + 15]);
  }
}
