"""Trains the beat network of core/src/reading/rhythm: residual dilated convolutions over frames of 23 ms (temporal
convolutional networks for beats: Davies and Böck 2019), in NumPy alone.

    python3 -m training.train_beats FOLDER... --epochs 60 --out core/src/reading/rhythm/beatNetworkWeights.json

Each folder holds what bench/src/training/writeRhythm.ts wrote. One clip in ten, by name, is kept for choosing when to stop.
"""
import argparse
import base64
import glob
import json
import os

import numpy as np

HOP_SECONDS = 512 / 22050
CROP = 860
DILATIONS = [1, 2, 4, 8, 16, 32, 64, 128]


def load(folders):
    clips = []
    for folder in folders:
        for path in sorted(glob.glob(os.path.join(folder, "*.json"))):
            about = json.load(open(path))
            features = np.fromfile(path[:-5] + ".f32", dtype=np.float32).reshape(-1, about["inputs"])
            name = os.path.basename(path)[:-5]
            clips.append((name, features, np.array(about["beats"]), np.array(about["downbeats"])))
    return clips


def targets(frames, beats, downbeats, factor=1.0):
    out = np.zeros((frames, 2), np.float32)
    for k, times in enumerate((beats, downbeats)):
        at = np.round(times * factor / HOP_SECONDS).astype(int)
        for shift, value in ((-1, 0.5), (1, 0.5), (0, 1.0)):
            where = at + shift
            where = where[(where >= 0) & (where < frames)]
            out[where, k] = np.maximum(out[where, k], value)
    return out


def stretched(features, factor):
    count = max(2, int(len(features) * factor))
    at = np.linspace(0, len(features) - 1, count)
    low = np.floor(at).astype(int)
    high = np.minimum(low + 1, len(features) - 1)
    share = (at - low)[:, None].astype(np.float32)
    return features[low] * (1 - share) + features[high] * share


class Network:
    def __init__(self, inputs, channels, rng):
        self.channels = channels
        self.params = []
        sizes = [(3 * inputs, channels)] + [(3 * channels, channels)] * len(DILATIONS) + [(channels, 2)]
        for i, (rows, columns) in enumerate(sizes):
            gain = 0.3 if 0 < i <= len(DILATIONS) else 1.0
            self.params.append(rng.normal(0, gain * np.sqrt(2 / rows), (rows, columns)).astype(np.float32))
            self.params.append(np.zeros(columns, np.float32))
        self.params[-1][:] = (-3, -4.5)

    @staticmethod
    def gather(x, dilation):
        batch, frames, channels = x.shape
        padded = np.zeros((batch, frames + 2 * dilation, channels), np.float32)
        padded[:, dilation : dilation + frames] = x
        return np.concatenate([padded[:, k * dilation : k * dilation + frames] for k in range(3)], axis=2)

    @staticmethod
    def scatter(g, dilation, channels):
        batch, frames, _ = g.shape
        padded = np.zeros((batch, frames + 2 * dilation, channels), np.float32)
        for k in range(3):
            padded[:, k * dilation : k * dilation + frames] += g[:, :, k * channels : (k + 1) * channels]
        return padded[:, dilation : dilation + frames]

    def forward(self, x, rng=None, dropout=0.0):
        kept = []
        for i, dilation in enumerate([1] + DILATIONS):
            columns = self.gather(x, dilation)
            z = columns @ self.params[2 * i] + self.params[2 * i + 1]
            y = np.maximum(z, 0)
            mask = None
            if dropout > 0 and i > 0:
                mask = (rng.random((y.shape[0], 1, y.shape[2])) > dropout).astype(np.float32) / (1 - dropout)
                y = y * mask
            kept.append((columns, z, mask))
            x = y if i == 0 else x + y
        return x @ self.params[-2] + self.params[-1], (x, kept)

    def backward(self, logits_gradient, kept):
        last, layers = kept
        gradients = [None] * len(self.params)
        flat = lambda a: a.reshape(-1, a.shape[2])
        gradients[-2] = flat(last).T @ flat(logits_gradient)
        gradients[-1] = flat(logits_gradient).sum(0)
        g = logits_gradient @ self.params[-2].T
        for i in range(len(DILATIONS), -1, -1):
            columns, z, mask = layers[i]
            gz = g if mask is None else g * mask
            gz = gz * (z > 0)
            gradients[2 * i] = flat(columns).T @ flat(gz)
            gradients[2 * i + 1] = flat(gz).sum(0)
            if i > 0:
                g = g + self.scatter(gz @ self.params[2 * i].T, DILATIONS[i - 1], self.channels)
        return gradients


def loss_of(logits, target):
    p = 1 / (1 + np.exp(-np.clip(logits, -30, 30)))
    loss = -(target * np.log(p + 1e-7) + (1 - target) * np.log(1 - p + 1e-7))
    return loss.mean(axis=(0, 1)), p


def batches(clips, rng, size):
    order = rng.permutation(len(clips))
    for start in range(0, len(order) - size + 1, size):
        xs, ys = [], []
        for index in order[start : start + size]:
            _, features, beats, downbeats = clips[index]
            factor = float(np.exp(rng.uniform(-0.18, 0.18)))
            x = stretched(features, factor)
            y = targets(len(x), beats, downbeats, factor)
            levels = (x.shape[1] - 1) // 2
            # Another room, another microphone: bands louder and softer, and sometimes a floor of noise.
            tilt = rng.normal(0, 0.06, levels).astype(np.float32)
            x = x.copy()
            x[:, :levels] = np.clip(x[:, :levels] + tilt, rng.choice([0, 0, 0, 0.2]), None)
            x[:, levels : 2 * levels] *= rng.uniform(0.8, 1.2)
            if rng.random() < 0.1:
                x[:, -1] = 0
            if len(x) > CROP:
                first = rng.integers(0, len(x) - CROP)
                x, y = x[first : first + CROP], y[first : first + CROP]
            elif len(x) < CROP:
                more = CROP - len(x)
                x = np.pad(x, ((0, more), (0, 0)))
                y = np.pad(y, ((0, more), (0, 0)))
            xs.append(x)
            ys.append(y)
        yield np.stack(xs).astype(np.float32), np.stack(ys)


def export(network, inputs, path):
    layers = []
    for i in range(0, len(network.params), 2):
        weights, bias = network.params[i], network.params[i + 1]
        scale = float(np.abs(weights).max() / 32767) or 1.0
        whole = np.round(weights / scale).astype("<i2")
        layers.append(
            {
                "weights": base64.b64encode(whole.tobytes()).decode(),
                "scale": float(f"{scale:.6g}"),
                "bias": [float(f"{value:.5g}") for value in bias],
            }
        )
    with open(path, "w") as file:
        json.dump({"inputs": inputs, "channels": network.channels, "dilations": [1] + DILATIONS, "layers": layers}, file)
        file.write("\n")


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("folders", nargs="+")
    parser.add_argument("--epochs", type=int, default=60)
    parser.add_argument("--channels", type=int, default=24)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--out", required=True)
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    clips = load(options.folders)
    kept = [clip for i, clip in enumerate(clips) if i % 10 == 9]
    train = [clip for i, clip in enumerate(clips) if i % 10 != 9]
    inputs = clips[0][1].shape[1]
    network = Network(inputs, options.channels, rng)
    first = [np.zeros_like(p) for p in network.params]
    second = [np.zeros_like(p) for p in network.params]
    size = 12
    steps = options.epochs * (len(train) // size)
    step, best = 0, np.inf
    for epoch in range(options.epochs):
        total = np.zeros(2)
        count = 0
        for x, y in batches(train, rng, size):
            logits, state = network.forward(x, rng, 0.1)
            loss, p = loss_of(logits, y)
            gradients = network.backward((p - y) * np.array([1.0, 1.5], np.float32) / y[:, :, 0].size, state)
            norm = np.sqrt(sum(float((g**2).sum()) for g in gradients))
            clip = min(1.0, 1.0 / (norm + 1e-9))
            step += 1
            rate = 0.004 * min(1, step / 100) * (0.5 + 0.5 * np.cos(np.pi * step / steps))
            for k, g in enumerate(gradients):
                g = g * clip
                first[k] = 0.9 * first[k] + 0.1 * g
                second[k] = 0.999 * second[k] + 0.001 * g * g
                network.params[k] -= (
                    rate
                    * (first[k] / (1 - 0.9**step))
                    / (np.sqrt(second[k] / (1 - 0.999**step)) + 1e-8)
                ).astype(np.float32)
            total += loss
            count += 1
        held = np.zeros(2)
        for _, features, beats, downbeats in kept:
            logits, _ = network.forward(features[None])
            held += loss_of(logits, targets(len(features), beats, downbeats)[None])[0]
        held /= len(kept)
        print(f"epoch {epoch + 1}: {np.round(total / count, 4)} kept {np.round(held, 4)}", flush=True)
        if held.sum() < best:
            best = held.sum()
            export(network, inputs, options.out)


if __name__ == "__main__":
    main()
