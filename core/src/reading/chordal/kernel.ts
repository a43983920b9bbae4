/** The compiled inner loops (core/kernel/convolve.as) and their memory. */
import { KERNEL_BASE64 } from './kernelBytes.ts';

/** Rows of frames in the kernel's memory; addresses and strides in bytes. */
export interface Rows {
  at: number;
  frameBytes: number;
}

export interface KernelLayer {
  /** Address of the offsets of the taps. */
  taps: number;
  tapCount: number;
  /** Inputs of a tap, taken two at a time. */
  pairs: number;
  /** Addresses of weights [tap][pair][output][2] of 16 bits, biases [key][output] of 32, and factors [output]. */
  weights: number;
  bias: number;
  scales: number;
}

export interface Kernel {
  /** Address of so many zeroed bytes; memory only grows. */
  allocate(bytes: number): number;
  place(values: Float32Array | Int32Array | Int16Array): number;
  /** The whole memory as numbers of 16 bits and as floats; stale after the next allocation. */
  integers(): Int16Array;
  floats(): Float32Array;
  /** Sixteen planes side by side, in blocks of eight bins; `offsets`: address of where each plane starts after `map`. */
  stack16(map: number, offsets: number, output: number, blocks: number): void;
  /** 24 or 16 outputs of 16 bits a key, cut off below zero, plus what lies at `residual` (0: nothing). */
  convolve24: Convolve;
  convolve16: Convolve;
  /** Four outputs a key as floats, dense. */
  convolve4(
    input: Rows & { keyBytes: number },
    layer: KernelLayer,
    output: number,
    frames: number,
    keys: number,
  ): void;
}

export type Convolve = (
  input: Rows & { keyBytes: number },
  layer: KernelLayer,
  output: Rows,
  residual: number,
  frames: number,
  keys: number,
) => void;

interface Exports {
  memory: WebAssembly.Memory;
  stack16(...numbers: number[]): void;
  convolve24(...numbers: number[]): void;
  convolve16(...numbers: number[]): void;
  convolve4(...numbers: number[]): void;
}

const PAGE_BYTES = 65536;
const ALIGNMENT = 16;

let compiled: WebAssembly.Module | undefined;

export function createKernel(): Kernel {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(KERNEL_BASE64), (c) => c.charCodeAt(0)));
  const { memory, stack16, convolve24, convolve16, convolve4 } = new WebAssembly.Instance(compiled, {})
    .exports as unknown as Exports;
  // Address 0 means "none".
  let used = ALIGNMENT;
  const allocate = (bytes: number) => {
    const at = used;
    used += Math.ceil(bytes / ALIGNMENT) * ALIGNMENT;
    const missing = used - memory.buffer.byteLength;
    if (missing > 0) memory.grow(Math.ceil(missing / PAGE_BYTES));
    return at;
  };
  return {
    allocate,
    place(values) {
      const at = allocate(values.byteLength);
      new Uint8Array(memory.buffer, at).set(
        new Uint8Array(values.buffer, values.byteOffset, values.byteLength),
      );
      return at;
    },
    integers: () => new Int16Array(memory.buffer),
    floats: () => new Float32Array(memory.buffer, 0, Math.floor(memory.buffer.byteLength / 4)),
    stack16,
    convolve24: wide(convolve24),
    convolve16: wide(convolve16),
    convolve4: (input, layer, output, frames, keys) =>
      convolve4(...addresses(input, layer), output, frames, keys),
  };
}

function wide(convolve: Exports['convolve24']): Convolve {
  return (input, layer, output, residual, frames, keys) =>
    convolve(...addresses(input, layer), output.at, output.frameBytes, residual, frames, keys);
}

function addresses(input: Rows & { keyBytes: number }, layer: KernelLayer): number[] {
  return [
    input.at,
    input.frameBytes,
    input.keyBytes,
    layer.taps,
    layer.tapCount,
    layer.pairs,
    layer.weights,
    layer.bias,
    layer.scales,
  ];
}
