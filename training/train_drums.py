"""
Training of the network that reads hits and looks close: python3 -m training.train_drums --data FILE.npz … --out FILE.json
[--check FILE.npz] [--steps 6000]

A frame is judged from fifteen frames around it by a network with two hidden layers; for every kind of drum it gives the
probability of a stroke.
"""

import argparse
import base64
import json
import time

import numpy as np
import torch
from torch import nn
from torch.nn import functional as F

from .drum_sounds import KINDS
from .drums import BANDS
from .hits import Clips, evaluate, MOST, RANGE_DB

AROUND = (-10, -5, -3, -2, -1, 0, 1, 2, 3, 5, 8, 12, 18, 26, 40)
HIDDEN = (192, 64)
BATCH_FRAMES = 256
BATCH_CLIPS = 16


class Hits(nn.Module):
    def __init__(self):
        super().__init__()
        self.layers = nn.Sequential(
            nn.Linear(len(AROUND) * BANDS, HIDDEN[0]), nn.ReLU(), nn.Linear(HIDDEN[0], HIDDEN[1]), nn.ReLU(),
            nn.Linear(HIDDEN[1], len(KINDS)))
        nn.init.constant_(self.layers[-1].bias, -4)

    def forward(self, x):
        return self.layers(x)


def inputs_of(clips, index, first, count, gain_db=0.0, tilt_db=0.0):
    """count × (around · bands), 0–1."""
    reach = max(-AROUND[0], AROUND[-1])
    at = np.arange(first - reach, first + count + reach)
    inside = (at >= 0) & (at < clips.frames.shape[1])
    decibels = np.full((len(at), BANDS), -1e3, np.float32)
    decibels[inside] = clips.decibels(index)[at[inside]]
    x = 1 + (decibels - clips.tops[index] + gain_db + tilt_db * np.linspace(-1, 1, BANDS)) / RANGE_DB
    x = np.clip(x, 0, MOST).astype(np.float32)
    return np.concatenate([x[reach + d:reach + d + count] for d in AROUND], axis=1)


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("--data", required=True, nargs="+")
    parser.add_argument("--check")
    parser.add_argument("--out", required=True)
    parser.add_argument("--steps", type=int, default=6000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    torch.manual_seed(options.seed)
    torch.set_num_threads(1)
    rng = np.random.default_rng(options.seed)
    clips = Clips(options.data)
    apart = range(0, 24)
    check = Clips([options.check]) if options.check else None
    model = Hits()
    optimiser = torch.optim.AdamW(model.parameters(), lr=2e-3, weight_decay=1e-3)

    def judge(of):
        @torch.no_grad()
        def probabilities(index):
            x = torch.from_numpy(inputs_of(of, index, 0, of.frames.shape[1]))
            return torch.sigmoid(model(x)).numpy()

        return probabilities

    begin, running = time.time(), 0.0
    for step in range(1, options.steps + 1):
        for group in optimiser.param_groups:
            group["lr"] = 2e-3 * (0.5 + 0.5 * np.cos(np.pi * step / options.steps)) + 1e-5
        inputs, targets = [], []
        for _ in range(BATCH_CLIPS):
            i = int(rng.integers(len(apart), len(clips.frames)))
            first = int(rng.integers(clips.frames.shape[1] - BATCH_FRAMES))
            inputs.append(inputs_of(clips, i, first, BATCH_FRAMES, rng.uniform(-10, 6), rng.uniform(-6, 6)))
            targets.append(clips.targets[i, first:first + BATCH_FRAMES])
        y = torch.from_numpy(np.concatenate(targets))
        logits = model(torch.from_numpy(np.concatenate(inputs)))
        loss = F.binary_cross_entropy_with_logits(logits, y, weight=1 + y)
        optimiser.zero_grad()
        loss.backward()
        optimiser.step()
        running += loss.item()
        if step % 500 == 0:
            print(f"step {step} loss {running / 500:.5f} {time.time() - begin:.0f} s", flush=True)
            running = 0.0
        if step % 2000 == 0 or step == options.steps:
            print("apart", evaluate(judge(clips), clips, apart), flush=True)
            if check:
                for threshold in (0.3, 0.4, 0.5):
                    print("check", threshold, evaluate(judge(check), check, range(len(check.frames)), threshold), flush=True)
    layers = [m for m in model.layers if isinstance(m, nn.Linear)]
    stored = []
    for layer in layers:
        weight = layer.weight.detach().numpy()
        scales = np.abs(weight).max(axis=1) / 127 + 1e-12
        whole = np.round(weight / scales[:, None]).astype(np.int8)
        stored.append({"weights": base64.b64encode(np.ascontiguousarray(whole).tobytes()).decode(),
                       "scales": [float(f"{s:.7g}") for s in scales],
                       "bias": [round(float(b), 5) for b in layer.bias.detach().numpy()]})
    with open(options.out, "w") as file:
        json.dump({"around": AROUND, "kinds": KINDS, "layers": stored}, file, separators=(",", ":"))
        file.write("\n")


if __name__ == "__main__":
    main()
