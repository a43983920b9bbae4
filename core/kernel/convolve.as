// The inner loops of the chordal reader in SIMD, compiled by `npm run kernel` to src/reading/chordal/kernelBytes.ts.
// Frames × keys × channels lie in memory as whole numbers of 16 bits with channels innermost; weights are whole
// numbers too, so that one instruction multiplies eight pairs and adds neighbours (two channels of one input).
// Addresses and strides are in bytes. The caller sees to it that everything a tap reaches exists, and that sums fit
// into 32 bits.

/**
 * Two keys at a time, 24 outputs each. Sums times `scales` are cut off below zero, rounded and added to what lies at
 * `residual` (0 for none); what does not fit into 16 bits is cut off.
 * @param pairs of inputs for each tap
 * @param weights [tap][pair][output][2]
 */
export function convolve24(
  input: usize,
  frameBytes: i32,
  keyBytes: i32,
  taps: usize,
  tapCount: i32,
  pairs: i32,
  weights: usize,
  bias: usize,
  scales: usize,
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
        const end = p + 4 * pairs;
        while (p < end) {
          const x = v128.load32_splat(p);
          const y = v128.load32_splat(p + keyBytes);
          let v = v128.load(w, 0);
          a0 = i32x4.add(a0, i32x4.dot_i16x8_s(x, v));
          b0 = i32x4.add(b0, i32x4.dot_i16x8_s(y, v));
          v = v128.load(w, 16);
          a1 = i32x4.add(a1, i32x4.dot_i16x8_s(x, v));
          b1 = i32x4.add(b1, i32x4.dot_i16x8_s(y, v));
          v = v128.load(w, 32);
          a2 = i32x4.add(a2, i32x4.dot_i16x8_s(x, v));
          b2 = i32x4.add(b2, i32x4.dot_i16x8_s(y, v));
          v = v128.load(w, 48);
          a3 = i32x4.add(a3, i32x4.dot_i16x8_s(x, v));
          b3 = i32x4.add(b3, i32x4.dot_i16x8_s(y, v));
          v = v128.load(w, 64);
          a4 = i32x4.add(a4, i32x4.dot_i16x8_s(x, v));
          b4 = i32x4.add(b4, i32x4.dot_i16x8_s(y, v));
          v = v128.load(w, 80);
          a5 = i32x4.add(a5, i32x4.dot_i16x8_s(x, v));
          b5 = i32x4.add(b5, i32x4.dot_i16x8_s(y, v));
          w += 96;
          p += 4;
        }
      }
      const out = output + frame * outputFrameBytes + key * 48;
      const added = residual ? residual + frame * outputFrameBytes + key * 48 : 0;
      finish(a0, a1, scales, 0, out, added);
      finish(a2, a3, scales + 32, 16, out, added);
      finish(a4, a5, scales + 64, 32, out, added);
      finish(b0, b1, scales, 48, out, added);
      finish(b2, b3, scales + 32, 64, out, added);
      finish(b4, b5, scales + 64, 80, out, added);
    }
  }
}

/** {@link convolve24} for 16 outputs. */
export function convolve16(
  input: usize,
  frameBytes: i32,
  keyBytes: i32,
  taps: usize,
  tapCount: i32,
  pairs: i32,
  weights: usize,
  bias: usize,
  scales: usize,
  output: usize,
  outputFrameBytes: i32,
  residual: usize,
  frames: i32,
  keys: i32,
): void {
  for (let frame = 0; frame < frames; frame++) {
    for (let key = 0; key < keys; key += 2) {
      const base = input + frame * frameBytes + key * keyBytes;
      const start = bias + key * 64;
      let a0 = v128.load(start, 0);
      let a1 = v128.load(start, 16);
      let a2 = v128.load(start, 32);
      let a3 = v128.load(start, 48);
      let b0 = v128.load(start, 64);
      let b1 = v128.load(start, 80);
      let b2 = v128.load(start, 96);
      let b3 = v128.load(start, 112);
      let w = weights;
      for (let tap = 0; tap < tapCount; tap++) {
        let p = base + load<i32>(taps + 4 * tap);
        const end = p + 4 * pairs;
        while (p < end) {
          const x = v128.load32_splat(p);
          const y = v128.load32_splat(p + keyBytes);
          let v = v128.load(w, 0);
          a0 = i32x4.add(a0, i32x4.dot_i16x8_s(x, v));
          b0 = i32x4.add(b0, i32x4.dot_i16x8_s(y, v));
          v = v128.load(w, 16);
          a1 = i32x4.add(a1, i32x4.dot_i16x8_s(x, v));
          b1 = i32x4.add(b1, i32x4.dot_i16x8_s(y, v));
          v = v128.load(w, 32);
          a2 = i32x4.add(a2, i32x4.dot_i16x8_s(x, v));
          b2 = i32x4.add(b2, i32x4.dot_i16x8_s(y, v));
          v = v128.load(w, 48);
          a3 = i32x4.add(a3, i32x4.dot_i16x8_s(x, v));
          b3 = i32x4.add(b3, i32x4.dot_i16x8_s(y, v));
          w += 64;
          p += 4;
        }
      }
      const out = output + frame * outputFrameBytes + key * 32;
      const added = residual ? residual + frame * outputFrameBytes + key * 32 : 0;
      finish(a0, a1, scales, 0, out, added);
      finish(a2, a3, scales + 32, 16, out, added);
      finish(b0, b1, scales, 32, out, added);
      finish(b2, b3, scales + 32, 48, out, added);
    }
  }
}

@inline
function finish(low: v128, high: v128, scales: usize, offset: usize, out: usize, residual: usize): void {
  let sum = i16x8.narrow_i32x4_s(scaled(low, v128.load(scales)), scaled(high, v128.load(scales, 16)));
  if (residual) sum = i16x8.add_sat_s(sum, v128.load(residual + offset));
  v128.store(out + offset, sum);
}

@inline
function scaled(sum: v128, scale: v128): v128 {
  const value = f32x4.max(f32x4.mul(f32x4.convert_i32x4_s(sum), scale), f32x4.splat(0));
  return i32x4.trunc_sat_f32x4_s(f32x4.add(value, f32x4.splat(0.5)));
}

/** Four outputs a key, four keys at a time, times `scales`; output frames are dense (keys × 4 floats). */
export function convolve4(
  input: usize,
  frameBytes: i32,
  keyBytes: i32,
  taps: usize,
  tapCount: i32,
  pairs: i32,
  weights: usize,
  bias: usize,
  scales: usize,
  output: usize,
  frames: i32,
  keys: i32,
): void {
  const scale = v128.load(scales);
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
        const end = p + 4 * pairs;
        while (p < end) {
          const v = v128.load(w);
          a = i32x4.add(a, i32x4.dot_i16x8_s(v128.load32_splat(p), v));
          b = i32x4.add(b, i32x4.dot_i16x8_s(v128.load32_splat(p + keyBytes), v));
          c = i32x4.add(c, i32x4.dot_i16x8_s(v128.load32_splat(p + 2 * keyBytes), v));
          d = i32x4.add(d, i32x4.dot_i16x8_s(v128.load32_splat(p + 3 * keyBytes), v));
          w += 16;
          p += 4;
        }
      }
      const out = output + 16 * (frame * keys + key);
      v128.store(out, f32x4.mul(f32x4.convert_i32x4_s(a), scale), 0);
      v128.store(out, f32x4.mul(f32x4.convert_i32x4_s(b), scale), 16);
      v128.store(out, f32x4.mul(f32x4.convert_i32x4_s(c), scale), 32);
      v128.store(out, f32x4.mul(f32x4.convert_i32x4_s(d), scale), 48);
    }
  }
}

/**
 * Lays sixteen planes side by side: 8 · `blocks` bins, each with its value of every plane. The bins of a plane lie one
 * after the other from `map` + its offset on.
 * @param offsets of the planes
 */
export function stack16(map: usize, offsets: usize, output: usize, blocks: i32): void {
  for (let block = 0; block < blocks; block++) {
    const out = output + block * 256;
    const from = map + block * 16;
    stack8(from, offsets, out);
    stack8(from, offsets + 32, out + 16);
  }
}

/** Eight bins of eight planes, turned round in three steps of pairs. */
@inline
function stack8(from: usize, offsets: usize, out: usize): void {
  const p0 = v128.load(from + load<i32>(offsets, 0));
  const p1 = v128.load(from + load<i32>(offsets, 4));
  const p2 = v128.load(from + load<i32>(offsets, 8));
  const p3 = v128.load(from + load<i32>(offsets, 12));
  const p4 = v128.load(from + load<i32>(offsets, 16));
  const p5 = v128.load(from + load<i32>(offsets, 20));
  const p6 = v128.load(from + load<i32>(offsets, 24));
  const p7 = v128.load(from + load<i32>(offsets, 28));
  const a0 = low16(p0, p1);
  const a1 = high16(p0, p1);
  const a2 = low16(p2, p3);
  const a3 = high16(p2, p3);
  const a4 = low16(p4, p5);
  const a5 = high16(p4, p5);
  const a6 = low16(p6, p7);
  const a7 = high16(p6, p7);
  const b0 = low32(a0, a2);
  const b1 = high32(a0, a2);
  const b2 = low32(a1, a3);
  const b3 = high32(a1, a3);
  const b4 = low32(a4, a6);
  const b5 = high32(a4, a6);
  const b6 = low32(a5, a7);
  const b7 = high32(a5, a7);
  v128.store(out, low64(b0, b4), 0);
  v128.store(out, high64(b0, b4), 32);
  v128.store(out, low64(b1, b5), 64);
  v128.store(out, high64(b1, b5), 96);
  v128.store(out, low64(b2, b6), 128);
  v128.store(out, high64(b2, b6), 160);
  v128.store(out, low64(b3, b7), 192);
  v128.store(out, high64(b3, b7), 224);
}

@inline
function low16(a: v128, b: v128): v128 {
  return v128.shuffle<i16>(a, b, 0, 8, 1, 9, 2, 10, 3, 11);
}

@inline
function high16(a: v128, b: v128): v128 {
  return v128.shuffle<i16>(a, b, 4, 12, 5, 13, 6, 14, 7, 15);
}

@inline
function low32(a: v128, b: v128): v128 {
  return v128.shuffle<i32>(a, b, 0, 4, 1, 5);
}

@inline
function high32(a: v128, b: v128): v128 {
  return v128.shuffle<i32>(a, b, 2, 6, 3, 7);
}

@inline
function low64(a: v128, b: v128): v128 {
  return v128.shuffle<i64>(a, b, 0, 2);
}

@inline
function high64(a: v128, b: v128): v128 {
  return v128.shuffle<i64>(a, b, 1, 3);
}
