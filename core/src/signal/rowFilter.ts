import { createSignalKernel } from './signalKernel.ts';

/** What one call of a row filter can compute. */
export const MAX_FILTER_OUTPUTS = 4096;
const SIGNAL_AT_ONCE = 65536;

/** Sums of products of stretches of a signal with rows of a table of `taps` columns, one for each place of `out`. */
export function createRowFilter(
  table: Float32Array,
  taps: number,
): (signal: Float32Array, firsts: Int32Array, rows: Int32Array, out: Float32Array) => void {
  // Rows are filled up with zeros to what is multiplied at once.
  const columns = Math.ceil(taps / 4) * 4;
  const rowCount = table.length / taps;
  const kernel = createSignalKernel(rowCount * columns + SIGNAL_AT_ONCE + columns + 3 * MAX_FILTER_OUTPUTS);
  const { memory, place } = kernel;
  const at = {
    table: place(rowCount * columns),
    firsts: place(MAX_FILTER_OUTPUTS),
    rows: place(MAX_FILTER_OUTPUTS),
    out: place(MAX_FILTER_OUTPUTS),
    signal: place(SIGNAL_AT_ONCE + columns),
  };
  const placed = new Float32Array(memory.buffer, at.table, rowCount * columns);
  for (let row = 0; row < rowCount; row++)
    placed.set(table.subarray(row * taps, (row + 1) * taps), row * columns);
  const placedFirsts = new Int32Array(memory.buffer, at.firsts, MAX_FILTER_OUTPUTS);
  const placedRows = new Int32Array(memory.buffer, at.rows, MAX_FILTER_OUTPUTS);
  const placedOut = new Float32Array(memory.buffer, at.out, MAX_FILTER_OUTPUTS);
  const placedSignal = new Float32Array(memory.buffer, at.signal, SIGNAL_AT_ONCE + columns);
  return (signal, firsts, rows, out) => {
    for (let from = 0; from < out.length;) {
      // As many as their stretch of the signal fits; one always does.
      const start = firsts[from];
      let to = from + 1;
      while (to < out.length && firsts[to] + taps - start <= SIGNAL_AT_ONCE) to++;
      const end = Math.min(signal.length, firsts[to - 1] + taps);
      placedSignal.set(signal.subarray(start, end));
      placedSignal.fill(0, end - start, end - start + columns);
      for (let n = from; n < to; n++) placedFirsts[n - from] = firsts[n] - start;
      placedRows.set(rows.subarray(from, to));
      kernel.filterRows(at.signal, at.firsts, at.rows, at.table, columns, at.out, to - from);
      out.set(placedOut.subarray(0, to - from), from);
      from = to;
    }
  };
}
