/**
 * Residual dilated convolutions over frames (temporal convolutional networks: Bai, Kolter & Koltun 2018), as the programs in
 * training/ train them. The first layer takes the inputs, the following add to their own input, the last gives one logit an output.
 */

import { createDilatedLayers, type DilatedLayers } from '../signal/index.ts';
import { storedWeights } from './storedWeights.ts';

/** A trained network as stored: 16-bit whole numbers in base64, each layer with its scale. */
export interface StoredNetwork {
  inputs: number;
  channels: number;
  /** Frames between the three taps of each layer but the last. */
  dilations: number[];
  /** Weights as [tap][input][output]. */
  layers: { weights: string; scale: number; bias: number[] }[];
}

interface Network {
  layers: DilatedLayers;
  /** Weights of the last layer as [channel][output]. */
  head: { weights: Float32Array; bias: Float32Array };
}

/**
 * Unpacks a network at its first use. It takes frames × inputs values and gives for each output the probabilities, 0–1, of all
 * frames.
 */
export function createDilatedNetwork(stored: StoredNetwork): (features: Float32Array) => Float32Array[] {
  const logits = createDilatedLogits(stored);
  return (features) => logits(features).map((each) => each.map((value) => 1 / (1 + Math.exp(-value))));
}

/** As {@link createDilatedNetwork}, but it gives log odds. */
export function createDilatedLogits(stored: StoredNetwork): (features: Float32Array) => Float32Array[] {
  let network: Network | undefined;
  return (features) => {
    network ??= unpack(stored);
    const frames = features.length / stored.inputs;
    const { channels, dilations } = stored;
    let x = network.layers(0, features);
    for (let i = 1; i < dilations.length; i++) {
      const y = network.layers(i, x);
      for (let k = 0; k < y.length; k++) y[k] += x[k];
      x = y;
    }
    return outputsOf(x, frames, channels, network.head);
  };
}

function unpack({ dilations, layers }: StoredNetwork): Network {
  const last = layers[layers.length - 1];
  return {
    layers: createDilatedLayers(
      dilations.map((dilation, i) => ({ weights: storedWeights(layers[i]), bias: layers[i].bias, dilation })),
    ),
    head: { weights: storedWeights(last), bias: Float32Array.from(last.bias) },
  };
}

function outputsOf(
  x: Float32Array,
  frames: number,
  channels: number,
  { weights, bias }: Network['head'],
): Float32Array[] {
  const outputs = bias.length;
  const out = Array.from({ length: outputs }, () => new Float32Array(frames));
  for (let t = 0; t < frames; t++)
    for (let k = 0; k < outputs; k++) {
      let sum = bias[k];
      for (let c = 0; c < channels; c++) sum += x[t * channels + c] * weights[outputs * c + k];
      out[k][t] = sum;
    }
  return out;
}
