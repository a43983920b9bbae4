/** The compiled inner loops of this room (core/kernel/signal.as); each instance has its own memory. */
import { SIGNAL_BASE64 } from './signalBytes.ts';

export interface SignalKernel {
  memory: WebAssembly.Memory;
  /** Where so many floats or whole numbers of 32 bits may lie, zeroed. */
  place(count: number): number;
  realTransform(input: number, size: number, turns: number, work: number): number;
  interleave(frames: number, size: number, window: number, out: number): void;
  bandPowers(bins: number, bands: number, firsts: number, ends: number, weights: number, out: number): void;
  filterRows(
    signal: number,
    firsts: number,
    rows: number,
    table: number,
    taps: number,
    out: number,
    count: number,
  ): void;
  convolveRows(
    x: number,
    inputs: number,
    apart: number,
    weights: number,
    bias: number,
    y: number,
    outputs: number,
    frames: number,
  ): void;
}

const PAGE_BYTES = 65536;
const BYTES = 4;

let compiled: WebAssembly.Module | undefined;

/** @param count of all floats and whole numbers that will be placed; views of the memory stay valid */
export function createSignalKernel(count: number): SignalKernel {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(SIGNAL_BASE64), (c) => c.charCodeAt(0)));
  const exports = new WebAssembly.Instance(compiled, {}).exports as unknown as Omit<SignalKernel, 'place'>;
  // A load of four may reach a little beyond the last one.
  const missing = (count + 4) * BYTES - exports.memory.buffer.byteLength;
  if (missing > 0) exports.memory.grow(Math.ceil(missing / PAGE_BYTES));
  let used = 0;
  return {
    ...exports,
    place(wanted) {
      used += wanted;
      return (used - wanted) * BYTES;
    },
  };
}
