"""Trains the note network of core/src/reading (noteNetwork.ts): where a note of a single line starts and where a pitch sounds,
from frames of 11.6 ms.

    python3 -m training.train_notes FOLDER... --check FOLDER --epochs 40 --out core/src/reading/noteNetworkWeights.json

Each folder holds what bench/src/training/writeNotes.ts wrote; the last epoch's weights are kept. What it does on the voices of
--check, which it does not learn from, is printed.
"""
import argparse

import numpy as np
import torch

from .clips import load_clips, padded
from .dilated import Network, Trainer, export, take_up

CROP = 430
DILATIONS = [1, 2, 4, 8, 16, 32]
BATCH = 24
BANDS = 10
# A start in its frame and, half as sure, in those beside it.
ONSET_SHAPE = ((-2, 0.15), (2, 0.15), (-1, 0.6), (1, 0.6), (0, 1.0))
ONSET_WEIGHT = 2.0
# Another piece of each clip every time.
PASSES = 3


def load(folders):
    return [(features.astype(np.float16), targets(len(features), about)) for about, features in load_clips(folders)]


def targets(frames, about):
    out = np.zeros((frames, 2), np.float32)
    sounding = np.array(about["sounding"], np.float32)[:frames]
    out[: len(sounding), 0] = sounding
    at = np.array(about["onsets"])
    for shift, value in ONSET_SHAPE:
        where = np.round(at).astype(int) + shift
        where = where[(where >= 0) & (where < frames)]
        out[where, 1] = np.maximum(out[where, 1], value)
    return out


def recorded_otherwise(x, rng):
    """Another register, another microphone, another hall, and a speaker who opens and closes the mouth more or less."""
    x[:, 0] += rng.normal(0, 0.1)
    # Levels are 1 where it is loud.
    depth = rng.uniform(0.8, 1.2)
    x[:, 4:6] = 1 + depth * (x[:, 4:6] - 1) + rng.normal(0, 0.08)
    tilt = rng.normal(0, 0.1) * np.linspace(-1, 1, BANDS)
    x[:, -BANDS:] = 1 + depth * (x[:, -BANDS:] - 1) + tilt + rng.normal(0, 0.15, BANDS)


def batches(clips, rng):
    order = rng.permutation(len(clips))
    for start in range(0, len(order) - BATCH + 1, BATCH):
        xs, ys = [], []
        for index in order[start : start + BATCH]:
            features, target = clips[index]
            first = rng.integers(0, max(1, len(features) - CROP))
            x = features[first : first + CROP].astype(np.float32)
            y = target[first : first + CROP]
            x, y = padded(x, CROP), padded(y, CROP)
            recorded_otherwise(x, rng)
            xs.append(x)
            ys.append(y)
        yield np.stack(xs), np.stack(ys)


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("folders", nargs="+")
    parser.add_argument("--check", required=True)
    parser.add_argument("--epochs", type=int, default=40)
    parser.add_argument("--channels", type=int, default=32)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--start", help="weights to take up from")
    parser.add_argument("--rate", type=float, default=0.006)
    parser.add_argument("--out", required=True)
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    train = load(options.folders)
    check = load([options.check])
    print(f"{len(train)} clips, {sum(len(y) for _, y in train)} frames", flush=True)
    network = Network(train[0][0].shape[1], options.channels, DILATIONS, (0, -3), rng)
    if options.start:
        take_up(network, options.start)
    trainer = Trainer(network, options.epochs * PASSES * (len(train) // BATCH), options.rate, options.seed)
    weights = torch.tensor([1.0, ONSET_WEIGHT])
    for epoch in range(options.epochs):
        total, count = np.zeros(2), 0
        for _ in range(PASSES):
            for x, y in batches(train, rng):
                losses = trainer.losses(x, y, 0.05)
                trainer.learn((losses * weights).sum())
                total += losses.detach().numpy()
                count += 1
        held = np.zeros(2)
        with torch.no_grad():
            for features, target in check:
                held += trainer.losses(features[None].astype(np.float32), target[None]).numpy()
        print(f"epoch {epoch + 1}: {np.round(total / count, 4)} check {np.round(held / len(check), 4)}", flush=True)
        export(network, options.out)


if __name__ == "__main__":
    main()
