/**
 * Residual dilated convolutions over frames (temporal convolutional networks: Bai, Kolter & Koltun 2018), as the programs in
 * training/ train them. The first layer takes the inputs, the following add to their own input, the last gives one logit an output.
 */

/** A trained network as stored: 16-bit whole numbers in base64, each layer with its scale. */
export interface StoredNetwork {
  inputs: number;
  channels: number;
  /** Frames between the three taps of each layer but the last. */
  dilations: number[];
  /** Weights as [tap][input][output]. */
  layers: { weights: string; scale: number; bias: number[] }[];
}

interface Layer {
  weights: Float32Array;
  bias: Float32Array;
}

const TAPS = 3;

/**
 * Unpacks a network at its first use. It takes frames × inputs values and gives for each output the probabilities, 0–1, of all
 * frames.
 */
export function createDilatedNetwork(stored: StoredNetwork): (features: Float32Array) => Float32Array[] {
  let unpacked: Layer[] | undefined;
  return (features) => {
    unpacked ??= stored.layers.map(unpack);
    const frames = features.length / stored.inputs;
    const { channels, dilations } = stored;
    let x = features;
    for (const [i, dilation] of dilations.entries()) {
      const y = convolved(x, frames, i === 0 ? stored.inputs : channels, channels, dilation, unpacked[i]);
      if (i > 0) for (let k = 0; k < y.length; k++) y[k] += x[k];
      x = y;
    }
    return outputsOf(x, frames, channels, unpacked[unpacked.length - 1]);
  };
}

function unpack(layer: StoredNetwork['layers'][number]): Layer {
  const bytes = Uint8Array.from(atob(layer.weights), (char) => char.charCodeAt(0));
  const view = new DataView(bytes.buffer);
  const weights = new Float32Array(bytes.length / 2);
  for (let i = 0; i < weights.length; i++) weights[i] = view.getInt16(2 * i, true) * layer.scale;
  return { weights, bias: Float32Array.from(layer.bias) };
}

function outputsOf(x: Float32Array, frames: number, channels: number, head: Layer): Float32Array[] {
  const outputs = head.bias.length;
  const out = Array.from({ length: outputs }, () => new Float32Array(frames));
  for (let t = 0; t < frames; t++)
    for (let k = 0; k < outputs; k++) {
      let sum = head.bias[k];
      for (let c = 0; c < channels; c++) sum += x[t * channels + c] * head.weights[outputs * c + k];
      out[k][t] = 1 / (1 + Math.exp(-sum));
    }
  return out;
}

/** Three taps `dilation` frames apart, zeros beyond the ends, and nothing below zero. */
function convolved(
  x: Float32Array,
  frames: number,
  inputs: number,
  outputs: number,
  dilation: number,
  layer: Layer,
): Float32Array {
  const y = new Float32Array(frames * outputs);
  for (let t = 0; t < frames; t++) y.set(layer.bias, t * outputs);
  for (let tap = 0; tap < TAPS; tap++) {
    const shift = (tap - 1) * dilation;
    for (let t = Math.max(0, -shift); t < Math.min(frames, frames - shift); t++) {
      const from = (t + shift) * inputs;
      const to = t * outputs;
      for (let i = 0; i < inputs; i++) {
        const value = x[from + i];
        if (value === 0) continue;
        const row = (tap * inputs + i) * outputs;
        for (let o = 0; o < outputs; o++) y[to + o] += value * layer.weights[row + o];
      }
    }
  }
  for (let k = 0; k < y.length; k++) if (y[k] < 0) y[k] = 0;
  return y;
}
