"""Trains the beat network of core/src/reading/rhythm: residual dilated convolutions over frames of 23 ms (temporal
convolutional networks for beats: Davies and Böck 2019), in NumPy alone.

    python3 -m training.train_beats FOLDER... --epochs 60 --out core/src/reading/rhythm/beatNetworkWeights.json

Each folder holds what bench/src/training/writeRhythm.ts wrote. One clip in ten, by name, is kept for choosing when to stop.
"""
import argparse
import glob
import json
import os

import numpy as np

from .dilated import Adam, Network, export, loss_of

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
    network = Network(inputs, options.channels, DILATIONS, (-3, -4.5), rng)
    size = 12
    adam = Adam(network, options.epochs * (len(train) // size))
    best = np.inf
    for epoch in range(options.epochs):
        total = np.zeros(2)
        count = 0
        for x, y in batches(train, rng, size):
            logits, state = network.forward(x, rng, 0.1)
            loss, p = loss_of(logits, y)
            gradients = network.backward((p - y) * np.array([1.0, 1.5], np.float32) / y[:, :, 0].size, state)
            adam.update(gradients)
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
            export(network, options.out)


if __name__ == "__main__":
    main()
