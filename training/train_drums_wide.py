"""
Training of the network that reads hits and sees far: python3 -m training.train_drums_wide --data FILE.npz … --out FILE.json
[--check FILE.npz] [--steps 8000] [--start FILE.json]

Residual dilated convolutions over frames of 5.8 ms that see 0.7 s to each side; for every kind of drum the probability of a stroke.
"""

import argparse
import time

import numpy as np
import torch

from .dilated import Network, Trainer, export, forward, take_up
from .drum_sounds import KINDS
from .drums import BANDS
from .hits import Clips, evaluate, MOST, RANGE_DB

DILATIONS = [2, 4, 8, 16, 32, 64]
BATCH_FRAMES = 512
BATCH_CLIPS = 12


def inputs_of(clips, index, first, count, rng=None):
    """count × twice the bands: their levels below the loudest frames, and below what is loud in each band. With `rng` as another
    microphone would have it."""
    decibels = clips.decibels(index)[first:first + count]
    top = clips.tops[index]
    loud = np.maximum(clips.loud[index], top - RANGE_DB)
    colour = 0
    if rng is not None:
        steps = np.interp(np.arange(BANDS), np.linspace(0, BANDS - 1, 7), rng.normal(0, 3, 7))
        colour = rng.uniform(-7, 5) + rng.uniform(-5, 5) * np.linspace(-1, 1, BANDS) + steps
        loud = loud + rng.normal(0, 1.5)
    x = np.concatenate([1 + (decibels - top + colour) / RANGE_DB, 1 + (decibels - loud) / RANGE_DB], axis=1)
    return np.clip(x, 0, MOST).astype(np.float32)


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("--data", required=True, nargs="+")
    parser.add_argument("--check")
    parser.add_argument("--out", required=True)
    parser.add_argument("--steps", type=int, default=8000)
    parser.add_argument("--channels", type=int, default=48)
    parser.add_argument("--rate", type=float, default=0.004)
    parser.add_argument("--start", help="weights to take up from")
    parser.add_argument("--threads", type=int, default=1)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    torch.set_num_threads(options.threads)
    rng = np.random.default_rng(options.seed)
    clips = Clips(options.data)
    apart = range(0, 24)
    check = Clips([options.check]) if options.check else None
    network = Network(2 * BANDS, options.channels, DILATIONS, [-4] * len(KINDS), rng)
    if options.start:
        take_up(network, options.start)
    trainer = Trainer(network, options.steps, options.rate, options.seed)
    params = [torch.from_numpy(each) for each in network.params]

    def judge(of):
        @torch.no_grad()
        def probabilities(index):
            x = torch.from_numpy(inputs_of(of, index, 0, of.frames.shape[1])[None])
            return torch.sigmoid(forward(params, network.dilations, x))[0].numpy()

        return probabilities

    begin, running = time.time(), 0.0
    for step in range(1, options.steps + 1):
        inputs, targets = [], []
        for _ in range(BATCH_CLIPS):
            i = int(rng.integers(len(apart), len(clips.frames)))
            first = int(rng.integers(clips.frames.shape[1] - BATCH_FRAMES))
            inputs.append(inputs_of(clips, i, first, BATCH_FRAMES, rng))
            targets.append(clips.targets[i, first:first + BATCH_FRAMES])
        loss = trainer.losses(np.stack(inputs), np.stack(targets), 0.05).sum()
        trainer.learn(loss)
        running += loss.item()
        if step % 500 == 0:
            print(f"step {step} loss {running / 500:.5f} {time.time() - begin:.0f} s", flush=True)
            running = 0.0
            export(network, options.out)
        if step % 2000 == 0 or step == options.steps:
            print("apart", evaluate(judge(clips), clips, apart), flush=True)
            if check:
                for threshold in (0.3, 0.4, 0.5):
                    print("check", threshold, evaluate(judge(check), check, range(len(check.frames)), threshold), flush=True)


if __name__ == "__main__":
    main()
