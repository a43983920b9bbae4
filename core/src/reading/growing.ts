/** A Float32Array that grows; used where the length of a stream is not known beforehand. */
export class GrowingFloats {
  private buffer = new Float32Array(4096);
  length = 0;

  /** Makes room for `count` more values and returns the array to write them into, from the old length on. */
  extend(count: number): Float32Array {
    if (this.length + count > this.buffer.length) {
      const grown = new Float32Array(Math.max(this.buffer.length * 2, this.length + count));
      grown.set(this.buffer);
      this.buffer = grown;
    }
    this.length += count;
    return this.buffer;
  }

  push(value: number): void {
    this.extend(1)[this.length - 1] = value;
  }

  append(values: Float32Array): void {
    const at = this.length;
    this.extend(values.length).set(values, at);
  }

  /** The values without copying; valid until the next growth. */
  values(): Float32Array {
    return this.buffer.subarray(0, this.length);
  }
}
