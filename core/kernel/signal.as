// The inner loops of transforms and filters in SIMD, compiled by `npm run kernel` to src/signal/signalBytes.ts.
// Addresses are in bytes. Transforms take four real frames at once, which lie side by side: sample i of frame f is the
// float at 16·i + 4·f.

/**
 * Discrete Fourier transform of `size` real samples (a power of two, at least 8): complex bins 0 … size/2 − 1 as
 * [re of four frames][im of four frames]. The imaginary part of bin 0 is 0. A complex transform of half the size
 * (radix-4 Stockham, sorted as it goes) is taken apart into even and odd samples.
 * @param input is overwritten
 * @param turns e^(−2πi·k/size) for k = 0 … size/2 − 1 as pairs of floats
 * @param work as large as the input
 * @returns where the bins lie: `input` or `work`
 */
export function realTransform(input: usize, size: i32, turns: usize, work: usize): usize {
  const half = size >> 1;
  let x = input;
  let y = work;
  let n = half;
  let stride = 1;
  while (n >= 4) {
    radix4(x, y, n, stride, turns, half);
    const other = x;
    x = y;
    y = other;
    n >>= 2;
    stride <<= 2;
  }
  if (n == 2) {
    radix2(x, y, stride);
    const other = x;
    x = y;
    y = other;
  }
  return separate(x, y, half, turns);
}

function radix4(x: usize, y: usize, n: i32, stride: i32, turns: usize, half: i32): void {
  const quarter = stride * (n >> 2) * 32;
  for (let p = 0; p < n >> 2; p++) {
    // e^(−2πi·p/n): the table has twice the points of the complex transform.
    const at = 16 * p * stride;
    const w1r = v128.load32_splat(turns + at);
    const w1i = v128.load32_splat(turns + at + 4);
    const w2r = v128.load32_splat(turns + 2 * at);
    const w2i = v128.load32_splat(turns + 2 * at + 4);
    // Beyond half a turn the sign changes.
    const third = 3 * p * stride * 2;
    const over = third >= half;
    const w3 = turns + 8 * (over ? third - half : third);
    const sign = f32x4.splat(over ? -1 : 1);
    const w3r = f32x4.mul(sign, v128.load32_splat(w3));
    const w3i = f32x4.mul(sign, v128.load32_splat(w3 + 4));
    let from = x + 32 * stride * p;
    let to = y + 128 * stride * p;
    const step = 32 * stride;
    for (let q = 0; q < stride; q++) {
      const ar = v128.load(from);
      const ai = v128.load(from, 16);
      const br = v128.load(from + quarter);
      const bi = v128.load(from + quarter, 16);
      const cr = v128.load(from + 2 * quarter);
      const ci = v128.load(from + 2 * quarter, 16);
      const dr = v128.load(from + 3 * quarter);
      const di = v128.load(from + 3 * quarter, 16);
      const sr = f32x4.add(ar, cr);
      const si = f32x4.add(ai, ci);
      const mr = f32x4.sub(ar, cr);
      const mi = f32x4.sub(ai, ci);
      const tr = f32x4.add(br, dr);
      const ti = f32x4.add(bi, di);
      // i·(b − d)
      const jr = f32x4.sub(di, bi);
      const ji = f32x4.sub(br, dr);
      v128.store(to, f32x4.add(sr, tr));
      v128.store(to, f32x4.add(si, ti), 16);
      let r = f32x4.sub(mr, jr);
      let i = f32x4.sub(mi, ji);
      v128.store(to + step, f32x4.sub(f32x4.mul(w1r, r), f32x4.mul(w1i, i)));
      v128.store(to + step, f32x4.add(f32x4.mul(w1r, i), f32x4.mul(w1i, r)), 16);
      r = f32x4.sub(sr, tr);
      i = f32x4.sub(si, ti);
      v128.store(to + 2 * step, f32x4.sub(f32x4.mul(w2r, r), f32x4.mul(w2i, i)));
      v128.store(to + 2 * step, f32x4.add(f32x4.mul(w2r, i), f32x4.mul(w2i, r)), 16);
      r = f32x4.add(mr, jr);
      i = f32x4.add(mi, ji);
      v128.store(to + 3 * step, f32x4.sub(f32x4.mul(w3r, r), f32x4.mul(w3i, i)));
      v128.store(to + 3 * step, f32x4.add(f32x4.mul(w3r, i), f32x4.mul(w3i, r)), 16);
      from += 32;
      to += 32;
    }
  }
}

function radix2(x: usize, y: usize, stride: i32): void {
  const step = 32 * stride;
  for (let q = 0; q < stride; q++) {
    const from = x + 32 * q;
    const to = y + 32 * q;
    const ar = v128.load(from);
    const ai = v128.load(from, 16);
    const br = v128.load(from + step);
    const bi = v128.load(from + step, 16);
    v128.store(to, f32x4.add(ar, br));
    v128.store(to, f32x4.add(ai, bi), 16);
    v128.store(to + step, f32x4.sub(ar, br));
    v128.store(to + step, f32x4.sub(ai, bi), 16);
  }
}

/** Bins of the real signal from those of its even (real) and odd (imaginary) samples. */
function separate(z: usize, out: usize, half: i32, turns: usize): usize {
  const halves = f32x4.splat(0.5);
  v128.store(out, f32x4.add(v128.load(z), v128.load(z, 16)));
  v128.store(out, f32x4.splat(0), 16);
  for (let k = 1; k < half; k++) {
    const a = z + 32 * k;
    const b = z + 32 * (half - k);
    const ar = v128.load(a);
    const ai = v128.load(a, 16);
    const br = v128.load(b);
    const bi = v128.load(b, 16);
    const evenR = f32x4.add(ar, br);
    const evenI = f32x4.sub(ai, bi);
    // −i·(z − conjugate)
    const oddR = f32x4.add(ai, bi);
    const oddI = f32x4.sub(br, ar);
    const wr = v128.load32_splat(turns + 8 * k);
    const wi = v128.load32_splat(turns + 8 * k + 4);
    const to = out + 32 * k;
    v128.store(
      to,
      f32x4.mul(halves, f32x4.add(evenR, f32x4.sub(f32x4.mul(wr, oddR), f32x4.mul(wi, oddI)))),
    );
    v128.store(
      to,
      f32x4.mul(halves, f32x4.add(evenI, f32x4.add(f32x4.mul(wr, oddI), f32x4.mul(wi, oddR)))),
      16,
    );
  }
  return out;
}

/**
 * Four frames of `size` samples (a multiple of 4) that lie one after the other, side by side: sample i of frame f at
 * out + 16·i + 4·f.
 * @param window each frame is multiplied by; 0 for none
 */
export function interleave(frames: usize, size: i32, window: usize, out: usize): void {
  const bytes = 4 * size;
  for (let at = 0; at < bytes; at += 16) {
    const w = window ? v128.load(window + at) : f32x4.splat(1);
    const a = f32x4.mul(w, v128.load(frames + at));
    const b = f32x4.mul(w, v128.load(frames + at + bytes));
    const c = f32x4.mul(w, v128.load(frames + at + 2 * bytes));
    const d = f32x4.mul(w, v128.load(frames + at + 3 * bytes));
    const ab = v128.shuffle<i32>(a, b, 0, 4, 1, 5);
    const cd = v128.shuffle<i32>(c, d, 0, 4, 1, 5);
    const to = out + 4 * at;
    v128.store(to, v128.shuffle<i64>(ab, cd, 0, 2), 0);
    v128.store(to, v128.shuffle<i64>(ab, cd, 1, 3), 16);
    const abHigh = v128.shuffle<i32>(a, b, 2, 6, 3, 7);
    const cdHigh = v128.shuffle<i32>(c, d, 2, 6, 3, 7);
    v128.store(to, v128.shuffle<i64>(abHigh, cdHigh, 0, 2), 32);
    v128.store(to, v128.shuffle<i64>(abHigh, cdHigh, 1, 3), 48);
  }
}

/**
 * Power of weighted sums of neighbouring bins: kernel k takes the weights up to `ends[k]` and the bins from
 * `firsts[k]` on; out[4·k + f] is the power for frame f.
 */
export function bandPowers(
  bins: usize,
  kernels: i32,
  firsts: usize,
  ends: usize,
  weights: usize,
  out: usize,
): void {
  let w = weights;
  for (let k = 0; k < kernels; k++) {
    let p = bins + 32 * load<i32>(firsts + 4 * k);
    const end = weights + 4 * load<i32>(ends + 4 * k);
    let re = f32x4.splat(0);
    let im = f32x4.splat(0);
    while (w < end) {
      const weight = v128.load32_splat(w);
      re = f32x4.add(re, f32x4.mul(weight, v128.load(p)));
      im = f32x4.add(im, f32x4.mul(weight, v128.load(p, 16)));
      w += 4;
      p += 32;
    }
    v128.store(out + 16 * k, f32x4.add(f32x4.mul(re, re), f32x4.mul(im, im)));
  }
}

/**
 * Sums of products: out[n] is that of `taps` floats (a multiple of 4) of the signal from firsts[n] on with a row of the
 * table.
 */
export function filterRows(
  signal: usize,
  firsts: usize,
  rows: usize,
  table: usize,
  taps: i32,
  out: usize,
  count: i32,
): void {
  const bytes = 4 * taps;
  const even = bytes & ~31;
  for (let n = 0; n < count; n++) {
    let p = signal + 4 * load<i32>(firsts + 4 * n);
    let q = table + bytes * load<i32>(rows + 4 * n);
    const last = p + even;
    let a = f32x4.splat(0);
    let b = a;
    while (p < last) {
      a = f32x4.add(a, f32x4.mul(v128.load(p), v128.load(q)));
      b = f32x4.add(b, f32x4.mul(v128.load(p, 16), v128.load(q, 16)));
      p += 32;
      q += 32;
    }
    if (even < bytes) a = f32x4.add(a, f32x4.mul(v128.load(p), v128.load(q)));
    a = f32x4.add(a, b);
    store<f32>(
      out + 4 * n,
      f32x4.extract_lane(a, 0) +
        f32x4.extract_lane(a, 1) +
        (f32x4.extract_lane(a, 2) + f32x4.extract_lane(a, 3)),
    );
  }
}

/**
 * A convolution of three taps over frames, and nothing below zero: eight outputs and four frames at a time. Up to three frames behind
 * the last are computed along; their rows must be there.
 * @param x row of the first frame, `inputs` floats a row
 * @param apart bytes from the row of one tap to that of the next
 * @param weights for each eight outputs [tap][input][output]
 * @param y `outputs` floats a row
 * @param outputs a multiple of eight
 */
export function convolveRows(
  x: usize,
  inputs: i32,
  apart: i32,
  weights: usize,
  bias: usize,
  y: usize,
  outputs: i32,
  frames: i32,
): void {
  const row = 4 * inputs;
  const none = f32x4.splat(0);
  for (let o = 0; o < outputs; o += 8) {
    const low = v128.load(bias + 4 * o);
    const high = v128.load(bias + 4 * o, 16);
    for (let t = 0; t < frames; t += 4) {
      let a0 = low;
      let a1 = low;
      let a2 = low;
      let a3 = low;
      let b0 = high;
      let b1 = high;
      let b2 = high;
      let b3 = high;
      let w = weights + o * 3 * row;
      let p = x + t * row - apart;
      for (let tap = 0; tap < 3; tap++) {
        const end = p + row;
        const next = p + apart;
        while (p < end) {
          const wl = v128.load(w);
          const wh = v128.load(w, 16);
          let value = v128.load32_splat(p);
          a0 = f32x4.add(a0, f32x4.mul(value, wl));
          b0 = f32x4.add(b0, f32x4.mul(value, wh));
          value = v128.load32_splat(p + row);
          a1 = f32x4.add(a1, f32x4.mul(value, wl));
          b1 = f32x4.add(b1, f32x4.mul(value, wh));
          value = v128.load32_splat(p + 2 * row);
          a2 = f32x4.add(a2, f32x4.mul(value, wl));
          b2 = f32x4.add(b2, f32x4.mul(value, wh));
          value = v128.load32_splat(p + 3 * row);
          a3 = f32x4.add(a3, f32x4.mul(value, wl));
          b3 = f32x4.add(b3, f32x4.mul(value, wh));
          p += 4;
          w += 32;
        }
        p = next;
      }
      const out = y + 4 * (t * outputs + o);
      const step = 4 * outputs;
      v128.store(out, f32x4.max(a0, none));
      v128.store(out, f32x4.max(b0, none), 16);
      v128.store(out + step, f32x4.max(a1, none));
      v128.store(out + step, f32x4.max(b1, none), 16);
      v128.store(out + 2 * step, f32x4.max(a2, none));
      v128.store(out + 2 * step, f32x4.max(b2, none), 16);
      v128.store(out + 3 * step, f32x4.max(a3, none));
      v128.store(out + 3 * step, f32x4.max(b3, none), 16);
    }
  }
}
