/**
 * How likely a beat and a bar line lie in each frame: residual dilated convolutions over the rhythm features, as trained by
 * training/train_beats.py (temporal convolutional networks for beats: Davies and Böck 2019). It sees six seconds to each side.
 */
import { RHYTHM_INPUTS } from './rhythmFeatures.ts';
import weights from './beatNetworkWeights.json' with { type: 'json' };

export interface BeatLikelihood {
  /** 0–1, one for each frame. */
  beat: Float32Array;
  downbeat: Float32Array;
}

/** A layer's weights as [tap][input][output], and one bias for each output. */
interface Layer {
  weights: Float32Array;
  bias: Float32Array;
}

const TAPS = 3;
let unpacked: Layer[] | undefined;

function layers(): Layer[] {
  unpacked ??= weights.layers.map((layer) => {
    const bytes = Uint8Array.from(atob(layer.weights), (char) => char.charCodeAt(0));
    const view = new DataView(bytes.buffer);
    return {
      weights: Float32Array.from(
        { length: bytes.length / 2 },
        (_, i) => view.getInt16(2 * i, true) * layer.scale,
      ),
      bias: Float32Array.from(layer.bias),
    };
  });
  return unpacked;
}

/** @param features as rhythmFeatures gives them */
export function beatLikelihood(features: Float32Array): BeatLikelihood {
  const frames = features.length / RHYTHM_INPUTS;
  const all = layers();
  const { channels, dilations } = weights;
  let x = features;
  dilations.forEach((dilation, i) => {
    const y = convolved(x, frames, i === 0 ? RHYTHM_INPUTS : channels, channels, dilation, all[i]);
    if (i > 0) for (let k = 0; k < y.length; k++) y[k] += x[k];
    x = y;
  });
  const head = all[all.length - 1];
  const out = [new Float32Array(frames), new Float32Array(frames)];
  for (let t = 0; t < frames; t++)
    for (let k = 0; k < 2; k++) {
      let sum = head.bias[k];
      for (let c = 0; c < channels; c++) sum += x[t * channels + c] * head.weights[2 * c + k];
      out[k][t] = 1 / (1 + Math.exp(-sum));
    }
  return { beat: out[0], downbeat: out[1] };
}

/** Three taps `dilation` frames apart, silence beyond the ends, and nothing below zero. */
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
