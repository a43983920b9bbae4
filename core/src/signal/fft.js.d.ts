declare module 'fft.js' {
  /** Radix-4 transform of power-of-two size on interleaved complex arrays. */
  export default class FFT {
    constructor(size: number);
    createComplexArray(): number[];
    transform(out: number[], data: number[]): void;
    realTransform(out: number[], data: ArrayLike<number>): void;
    inverseTransform(out: number[], data: number[]): void;
  }
}
