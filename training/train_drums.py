"""
Training of the network that reads hits: python3 -m training.train_drums --data FILE.npz … --out FILE.json
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
from scipy.optimize import linear_sum_assignment
from torch import nn
from torch.nn import functional as F

from .drums import BANDS, FLOOR_DB, HOP, KINDS, SAMPLE_RATE_HZ, STEP_DB

AROUND = (-10, -5, -3, -2, -1, 0, 1, 2, 3, 5, 8, 12, 18, 26, 40)
HIDDEN = (192, 64)
RANGE_DB = 70
BATCH_FRAMES = 256
BATCH_CLIPS = 16
FRAMES_PER_SECOND = SAMPLE_RATE_HZ / HOP


class Hits(nn.Module):
    def __init__(self):
        super().__init__()
        self.layers = nn.Sequential(
            nn.Linear(len(AROUND) * BANDS, HIDDEN[0]), nn.ReLU(), nn.Linear(HIDDEN[0], HIDDEN[1]), nn.ReLU(),
            nn.Linear(HIDDEN[1], len(KINDS)))
        nn.init.constant_(self.layers[-1].bias, -4)

    def forward(self, x):
        return self.layers(x)


class Clips:
    def __init__(self, paths):
        frames, hits, before = [], [], 0
        for path in paths:
            with np.load(path) as file:
                frames.append(file["frames"])
                hits.append(file["hits"] + [before, 0, 0, 0])
            before += len(frames[-1])
        self.frames, hits = np.concatenate(frames), np.concatenate(hits)
        self.hits = [hits[hits[:, 0] == i][:, 1:] for i in range(len(self.frames))]
        self.targets = np.zeros(self.frames.shape[:2] + (len(KINDS),), np.float32)
        self.tops = np.zeros(len(self.frames))
        for i, hits in enumerate(self.hits):
            self.tops[i] = np.percentile(self.frames[i].max(axis=1), 99) * STEP_DB + FLOOR_DB
            for seconds, kind, _ in hits:
                at = seconds * FRAMES_PER_SECOND
                for frame in range(int(at) - 2, int(at) + 4):
                    if 0 <= frame < self.frames.shape[1]:
                        value = max(0.0, 1 - abs(frame - at) / 2.5)
                        self.targets[i, frame, int(kind)] = max(self.targets[i, frame, int(kind)], value)

    def inputs(self, index, first, count, gain_db=0.0, tilt_db=0.0):
        """count × (around · bands), 0–1."""
        reach = max(-AROUND[0], AROUND[-1])
        at = np.arange(first - reach, first + count + reach)
        inside = (at >= 0) & (at < self.frames.shape[1])
        decibels = np.full((len(at), BANDS), -1e3, np.float32)
        decibels[inside] = self.frames[index][at[inside]].astype(np.float32) * STEP_DB + FLOOR_DB
        x = 1 + (decibels - self.tops[index] + gain_db + tilt_db * np.linspace(-1, 1, BANDS)) / RANGE_DB
        x = np.clip(x, 0, 1.15).astype(np.float32)
        return np.concatenate([x[reach + d:reach + d + count] for d in AROUND], axis=1)


def pick(probabilities, threshold):
    """Peaks over ±3 frames: list of (seconds, kind)."""
    hits = []
    for kind in range(probabilities.shape[1]):
        p = probabilities[:, kind]
        padded = np.pad(p, 3)
        highest = np.max([padded[i:i + len(p)] for i in range(7)], axis=0)
        for frame in np.nonzero((p >= threshold) & (p >= highest))[0]:
            if hits and hits[-1][1] == kind and frame / FRAMES_PER_SECOND - hits[-1][0] < 0.03:
                continue
            hits.append((frame / FRAMES_PER_SECOND, kind))
    return hits


def match(found, true, tolerance=0.05):
    """Pairs by time alone (best assignment)."""
    if not found or not len(true):
        return []
    cost = np.abs(np.subtract.outer([f[0] for f in found], [t[0] for t in true]))
    rows, columns = linear_sum_assignment(np.where(cost <= tolerance, cost, 1e3))
    return [(r, c) for r, c in zip(rows, columns) if cost[r, c] <= tolerance]


@torch.no_grad()
def evaluate(model, clips, indices, threshold=0.4):
    """Onset F1 (of distinct times), F1 of hits with their kind, share of matched hits whose kind is right."""
    onset = [0, 0, 0]
    hit = [0, 0, 0]
    right = total = 0
    for i in indices:
        p = torch.sigmoid(model(torch.from_numpy(clips.inputs(i, 0, clips.frames.shape[1])))).numpy()
        found = sorted(pick(p, threshold))
        true = [(t[0], int(t[1])) for t in clips.hits[i]]
        onset = np.add(onset, [len(match(merge(found), merge(true))), len(merge(found)), len(merge(true))])
        for kind in range(len(KINDS)):
            mine, theirs = [f for f in found if f[1] == kind], [t for t in true if t[1] == kind]
            count = len(match(mine, theirs))
            hit = np.add(hit, [count, len(mine), len(theirs)])
            right += count
        total += len(true)
    return 2 * onset[0] / (onset[1] + onset[2]), 2 * hit[0] / (hit[1] + hit[2]), right / max(1, total)


def merge(hits, within=0.03):
    """Hits at the same time are one onset."""
    merged = []
    for hit in sorted(hits):
        if not merged or hit[0] - merged[-1][0] > within:
            merged.append(hit)
    return merged


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
    begin, running = time.time(), 0.0
    for step in range(1, options.steps + 1):
        for group in optimiser.param_groups:
            group["lr"] = 2e-3 * (0.5 + 0.5 * np.cos(np.pi * step / options.steps)) + 1e-5
        inputs, targets = [], []
        for _ in range(BATCH_CLIPS):
            i = int(rng.integers(len(apart), len(clips.frames)))
            first = int(rng.integers(clips.frames.shape[1] - BATCH_FRAMES))
            inputs.append(clips.inputs(i, first, BATCH_FRAMES, rng.uniform(-10, 6), rng.uniform(-6, 6)))
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
            print("apart", evaluate(model, clips, apart), flush=True)
            if check:
                for threshold in (0.3, 0.4, 0.5):
                    print("check", threshold, evaluate(model, check, range(len(check.frames)), threshold), flush=True)
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
