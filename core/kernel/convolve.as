// The inner loops of the chordal reader in SIMD, compiled by `npm run kernel` to src/reading/chordal/kernelBytes.ts.
// Frames × keys × channels lie in memory with channels innermost. Addresses and strides are in bytes. The caller
// sees to it that everything a tap reaches exists.

/** Two keys at a time, 24 outputs each; then nothing below zero passes, and `residual` (0 for none) is added. */
export function convolve24(
  input: usize,
  frameBytes: i32,
  keyBytes: i32,
  taps: usize,
  tapCount: i32,
  inputs: i32,
  weights: usize,
  bias: usize,
  output: usize,
  outputFrameBytes: i32,
  residual: usize,
  frames: i32,
  keys: i32,
): void {
  for (let frame = 0; frame < frames; frame++) {
    for (let key = 0; key < keys; key += 2) {
      const base = input + frame * frameBytes + key * keyBytes;
      const start = bias + key * 96;
      let a0 = v128.load(start, 0);
      let a1 = v128.load(start, 16);
      let a2 = v128.load(start, 32);
      let a3 = v128.load(start, 48);
      let a4 = v128.load(start, 64);
      let a5 = v128.load(start, 80);
      let b0 = v128.load(start, 96);
      let b1 = v128.load(start, 112);
      let b2 = v128.load(start, 128);
      let b3 = v128.load(start, 144);
      let b4 = v128.load(start, 160);
      let b5 = v128.load(start, 176);
      let w = weights;
      for (let tap = 0; tap < tapCount; tap++) {
        let p = base + load<i32>(taps + 4 * tap);
        const end = p + 4 * inputs;
        while (p < end) {
          const x = v128.load_splat<f32>(p);
          const y = v128.load_splat<f32>(p + keyBytes);
          let v = v128.load(w, 0);
          a0 = f32x4.add(a0, f32x4.mul(x, v));
          b0 = f32x4.add(b0, f32x4.mul(y, v));
          v = v128.load(w, 16);
          a1 = f32x4.add(a1, f32x4.mul(x, v));
          b1 = f32x4.add(b1, f32x4.mul(y, v));
          v = v128.load(w, 32);
          a2 = f32x4.add(a2, f32x4.mul(x, v));
          b2 = f32x4.add(b2, f32x4.mul(y, v));
          v = v128.load(w, 48);
          a3 = f32x4.add(a3, f32x4.mul(x, v));
          b3 = f32x4.add(b3, f32x4.mul(y, v));
          v = v128.load(w, 64);
          a4 = f32x4.add(a4, f32x4.mul(x, v));
          b4 = f32x4.add(b4, f32x4.mul(y, v));
          v = v128.load(w, 80);
          a5 = f32x4.add(a5, f32x4.mul(x, v));
          b5 = f32x4.add(b5, f32x4.mul(y, v));
          w += 96;
          p += 4;
        }
      }
      const zero = f32x4.splat(0);
      a0 = f32x4.max(a0, zero);
      a1 = f32x4.max(a1, zero);
      a2 = f32x4.max(a2, zero);
      a3 = f32x4.max(a3, zero);
      a4 = f32x4.max(a4, zero);
      a5 = f32x4.max(a5, zero);
      b0 = f32x4.max(b0, zero);
      b1 = f32x4.max(b1, zero);
      b2 = f32x4.max(b2, zero);
      b3 = f32x4.max(b3, zero);
      b4 = f32x4.max(b4, zero);
      b5 = f32x4.max(b5, zero);
      if (residual) {
        const r = residual + frame * outputFrameBytes + key * 96;
        a0 = f32x4.add(a0, v128.load(r, 0));
        a1 = f32x4.add(a1, v128.load(r, 16));
        a2 = f32x4.add(a2, v128.load(r, 32));
        a3 = f32x4.add(a3, v128.load(r, 48));
        a4 = f32x4.add(a4, v128.load(r, 64));
        a5 = f32x4.add(a5, v128.load(r, 80));
        b0 = f32x4.add(b0, v128.load(r, 96));
        b1 = f32x4.add(b1, v128.load(r, 112));
        b2 = f32x4.add(b2, v128.load(r, 128));
        b3 = f32x4.add(b3, v128.load(r, 144));
        b4 = f32x4.add(b4, v128.load(r, 160));
        b5 = f32x4.add(b5, v128.load(r, 176));
      }
      const out = output + frame * outputFrameBytes + key * 96;
      v128.store(out, a0, 0);
      v128.store(out, a1, 16);
      v128.store(out, a2, 32);
      v128.store(out, a3, 48);
      v128.store(out, a4, 64);
      v128.store(out, a5, 80);
      v128.store(out, b0, 96);
      v128.store(out, b1, 112);
      v128.store(out, b2, 128);
      v128.store(out, b3, 144);
      v128.store(out, b4, 160);
      v128.store(out, b5, 176);
    }
  }
}

/** Four outputs a key, four keys at a time, as they come; output frames are dense (keys × 4). */
export function convolve4(
  input: usize,
  frameBytes: i32,
  keyBytes: i32,
  taps: usize,
  tapCount: i32,
  inputs: i32,
  weights: usize,
  bias: usize,
  output: usize,
  frames: i32,
  keys: i32,
): void {
  for (let frame = 0; frame < frames; frame++) {
    for (let key = 0; key < keys; key += 4) {
      const base = input + frame * frameBytes + key * keyBytes;
      let a = v128.load(bias);
      let b = a;
      let c = a;
      let d = a;
      let w = weights;
      for (let tap = 0; tap < tapCount; tap++) {
        let p = base + load<i32>(taps + 4 * tap);
        const end = p + 4 * inputs;
        while (p < end) {
          const v = v128.load(w);
          a = f32x4.add(a, f32x4.mul(v128.load_splat<f32>(p), v));
          b = f32x4.add(b, f32x4.mul(v128.load_splat<f32>(p + keyBytes), v));
          c = f32x4.add(c, f32x4.mul(v128.load_splat<f32>(p + 2 * keyBytes), v));
          d = f32x4.add(d, f32x4.mul(v128.load_splat<f32>(p + 3 * keyBytes), v));
          w += 16;
          p += 4;
        }
      }
      const out = output + 16 * (frame * keys + key);
      v128.store(out, a, 0);
      v128.store(out, b, 16);
      v128.store(out, c, 32);
      v128.store(out, d, 48);
    }
  }
}
