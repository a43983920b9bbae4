"""Trains the beat network of core/src/reading/rhythm: residual dilated convolutions over frames of 23 ms (temporal
convolutional networks for beats: Davies and Böck 2019).

    python3 -m training.train_beats FOLDER... --check FOLDER... --out core/src/reading/rhythm/beatNetworkWeights.json

Each folder holds what bench/src/training/writeRhythm.ts wrote; the last epoch's weights are kept. What it does on the pieces of
--check, which it does not learn from, is printed.
"""
import argparse

import numpy as np
import torch

from .clips import load_clips, padded
from .dilated import UNKNOWN, Network, Trainer, export, take_up

HOP_SECONDS = 512 / 22050
CROP = 860
# As core/src/reading/rhythm/rhythmFeatures.ts counts rises.
RISE_FRAMES = 2
DILATIONS = [1, 2, 4, 8, 16, 32, 64, 128]
BATCH = 12
# Tempi that are told apart: eight to the octave, as core/src/reading/rhythm/beatNetwork.ts names them.
TEMPI_BPM = 42 * 2 ** (np.arange(20) / 8)
# How much a mistake counts: beats, bar lines, whether a beat falls into three, and each tempo (several tasks at once: Böck,
# Davies and Knees 2019, "Multi-task learning of tempo and beat").
WEIGHTS = np.array([1.0, 1.5, 0.3] + [0.06] * len(TEMPI_BPM), np.float32)


def load(folders):
    return [
        (features, np.array(about["beats"]), np.array(about["downbeats"]), about["compound"])
        for about, features in load_clips(folders)
    ]


def targets(frames, beats, downbeats, compound, factor=1.0):
    out = np.zeros((frames, len(WEIGHTS)), np.float32)
    # Nobody wrote a metre: where bars begin, and how beats are divided, is not known.
    out[:, 1:3] = (0, compound) if len(downbeats) else UNKNOWN
    out[:, 3:] = tempo_targets(frames, beats * factor)
    for k, times in enumerate((beats, downbeats)):
        at = np.round(times * factor / HOP_SECONDS).astype(int)
        for shift, value in ((-1, 0.5), (1, 0.5), (0, 1.0)):
            where = at + shift
            where = where[(where >= 0) & (where < frames)]
            out[where, k] = np.maximum(out[where, k], value)
    return out


def tempo_targets(frames, beats):
    """The tempo around each frame, shared between the two nearest of TEMPI_BPM."""
    if len(beats) < 2:
        return 0
    middle = (beats[1:] + beats[:-1]) / 2
    bpm = 60 / np.interp(np.arange(frames) * HOP_SECONDS, middle, np.diff(beats))
    place = 8 * np.log2(bpm / TEMPI_BPM[0])
    return np.clip(1 - np.abs(place[:, None] - np.arange(len(TEMPI_BPM))), 0, 1)


def stretched(features, factor):
    count = max(2, int(len(features) * factor))
    at = np.linspace(0, len(features) - 1, count)
    low = np.floor(at).astype(int)
    high = np.minimum(low + 1, len(features) - 1)
    share = (at - low)[:, None].astype(np.float32)
    return features[low] * (1 - share) + features[high] * share


def recorded_otherwise(levels, rng):
    """Levels and rises of the bands as another room, microphone or desk would give them: bands louder and softer, a floor of noise, or
    the opposite, silence between the strokes, as drum machines have it."""
    x = levels + rng.normal(0, 0.06, levels.shape[1]).astype(np.float32)
    kind = rng.random()
    if kind < 0.2:
        x = np.maximum(x, 0.2)
    elif kind < 0.5:
        gate = rng.uniform(0, 0.55)
        x = (x - gate) / (1 - gate)
    x = np.maximum(x, 0)
    before = np.concatenate([np.zeros((RISE_FRAMES, x.shape[1]), np.float32), x[:-RISE_FRAMES]])
    return np.concatenate([x, 2 * np.maximum(0, x - before)], axis=1)


def batches(clips, rng):
    order = rng.permutation(len(clips))
    for start in range(0, len(order) - BATCH + 1, BATCH):
        xs, ys = [], []
        for index in order[start : start + BATCH]:
            features, beats, downbeats, compound = clips[index]
            factor = float(np.exp(rng.uniform(-0.22, 0.22)))
            x = stretched(features, factor)
            y = targets(len(x), beats, downbeats, compound, factor)
            levels = (x.shape[1] - 1) // 2
            x[:, : 2 * levels] = recorded_otherwise(x[:, :levels], rng)
            if rng.random() < 0.1:
                x[:, -1] = 0
            first = rng.integers(0, max(1, len(x) - CROP))
            xs.append(padded(x[first : first + CROP], CROP))
            ys.append(padded(y[first : first + CROP], CROP))
        yield np.stack(xs).astype(np.float32), np.stack(ys)


def said(losses):
    return np.round([*losses[:3], losses[3:].sum()], 4)


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("folders", nargs="+")
    parser.add_argument("--check", nargs="+", required=True)
    parser.add_argument("--epochs", type=int, default=36)
    parser.add_argument("--channels", type=int, default=32)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--start", help="weights to take up from")
    parser.add_argument("--rate", type=float, default=0.004)
    parser.add_argument("--compound", type=int, default=1, help="how many times pieces in 6/8 and 12/8 are heard")
    parser.add_argument("--out", required=True)
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    train = load(options.folders)
    train += [clip for clip in train if clip[3]] * (options.compound - 1)
    check = load(options.check)
    print(f"{len(train)} clips, {len(check)} to check", flush=True)
    network = Network(train[0][0].shape[1], options.channels, DILATIONS, (-3, -4.5, -1.5) + (-3,) * len(TEMPI_BPM), rng)
    if options.start:
        take_up(network, options.start)
    trainer = Trainer(network, options.epochs * (len(train) // BATCH), options.rate, options.seed)
    weights = torch.from_numpy(WEIGHTS)
    for epoch in range(options.epochs):
        total, count = np.zeros(len(WEIGHTS)), 0
        for x, y in batches(train, rng):
            losses = trainer.losses(x, y, 0.1)
            trainer.learn((losses * weights).sum())
            total += losses.detach().numpy()
            count += 1
        held = np.zeros(len(WEIGHTS))
        with torch.no_grad():
            for features, *known in check:
                held += trainer.losses(features[None], targets(len(features), *known)[None]).numpy()
        print(f"epoch {epoch + 1}: {said(total / count)} check {said(held / len(check))}", flush=True)
        export(network, options.out)


if __name__ == "__main__":
    main()
