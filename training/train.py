"""
Training: python3 -m training.train --data FOLDER --out FILE.pt [--steps 3000] [--start FILE.pt|networkWeights.json] [--threads 1]

Prints the loss and every 500 steps the scores on clips kept apart from training.
"""

import argparse
import glob
import math
import time

import numpy as np
import torch
from torch.nn import functional as F

from .decode import decode, score
from .features import BINS, FLOOR_DB, HOP, RANGE_DB, SAMPLE_RATE_HZ, STORED_STEP_DB
from .network import KEYS, Reader
from .resume import reader_from_export

FRAMES = 256
BATCH = 8
LOWEST_RATE = 2e-5
FRAMES_PER_SECOND = SAMPLE_RATE_HZ / HOP
KEPT_APART = 16
SHIFT_KEYS = 4


class Clips:
    def __init__(self, paths):
        self.maps, self.notes, self.tops = [], [], []
        for path in paths:
            with np.load(path) as file:
                maps, notes = file["maps"], file["notes"]
            self.maps.append(maps)
            self.notes.append(notes)
            self.tops.append(np.percentile(maps[:, 0].max(axis=1), 98) * STORED_STEP_DB + FLOOR_DB)

    def scaled(self, index, first=0, frames=None, gain_db=0.0):
        maps = self.maps[index][first:None if frames is None else first + frames]
        decibels = maps.astype(np.float32) * STORED_STEP_DB + FLOOR_DB
        return np.clip(1 + (decibels - self.tops[index] + gain_db) / RANGE_DB, 0, 1)


def targets(notes, first, frames):
    """Onset and offset as triangles of ±1.5 and ±3 frames, active, velocity where one starts."""
    onset = np.zeros((frames, KEYS), np.float32)
    active = np.zeros((frames, KEYS), np.float32)
    velocity = np.zeros((frames, KEYS), np.float32)
    offset = np.zeros((frames, KEYS), np.float32)
    for start, end, key, strength in notes:
        s, e, key = start * FRAMES_PER_SECOND - first, end * FRAMES_PER_SECOND - first, int(key)
        if e < -4 or s > frames + 4:
            continue
        active[max(0, int(round(s))):max(0, int(round(e))), key] = 1
        for frame in range(max(0, int(s) - 1), min(frames, int(s) + 3)):
            value = max(0.0, 1 - abs(frame - s) / 1.5)
            onset[frame, key] = max(onset[frame, key], value)
            if value > 0:
                velocity[frame, key] = strength / 127
        for frame in range(max(0, int(e) - 3), min(frames, int(e) + 5)):
            offset[frame, key] = max(offset[frame, key], 1 - abs(frame - e) / 3)
    return onset, active, velocity, offset


def draw(clips, rng, frames):
    """Frames of a clip somewhat louder or softer, brighter or darker, higher or lower: maps in 0–1 (frames, 2, bins),
    which clip, its first frame, and keys moved up."""
    index = int(rng.integers(len(clips.maps)))
    first = int(rng.integers(clips.maps[index].shape[0] - frames))
    x = clips.scaled(index, first, frames, gain_db=rng.uniform(-8, 5))
    tilt = rng.uniform(-12, 12) / RANGE_DB * np.linspace(-0.5, 0.5, BINS)
    x = np.clip(x + (x > 0) * tilt.astype(np.float32), 0, 1)
    keys = int(rng.integers(-SHIFT_KEYS, SHIFT_KEYS + 1))
    return moved(x, 3 * keys, x[..., :1]), index, first, keys


def moved(values, steps, below=0):
    """Moved up along the last axis; `below` comes in at its start, nothing at its end."""
    result = np.zeros_like(values)
    if steps >= 0:
        result[..., steps:] = values[..., :values.shape[-1] - steps]
        result[..., :steps] = below
    else:
        result[..., :steps] = values[..., -steps:]
    return result


def batch(clips, rng):
    maps, labels = [], []
    for _ in range(BATCH):
        x, index, first, keys = draw(clips, rng, FRAMES)
        notes = clips.notes[index].copy()
        notes[:, 2] += keys
        notes = notes[(notes[:, 2] >= 0) & (notes[:, 2] < KEYS)]
        maps.append(x.transpose(1, 0, 2))
        labels.append(np.stack(targets(notes, first, FRAMES)))
    return torch.from_numpy(np.stack(maps)), torch.from_numpy(np.stack(labels))


def loss_of(logits, labels):
    onset, active, velocity, offset = labels.unbind(1)
    onset_loss = F.binary_cross_entropy_with_logits(logits[:, 0], onset, weight=1 + 4 * onset)
    active_loss = F.binary_cross_entropy_with_logits(logits[:, 1], active, weight=1 + active)
    starts = onset > 0.3
    error = (torch.sigmoid(logits[:, 2]) - velocity) ** 2
    velocity_loss = (error * starts).sum() / (starts.sum() + 1)
    offset_loss = F.binary_cross_entropy_with_logits(logits[:, 3], offset)
    return 8 * onset_loss + active_loss + 0.3 * velocity_loss + 2 * offset_loss


@torch.no_grad()
def evaluate(model, clips):
    """Mean onset F1 and onset-and-offset F1 over clips."""
    model.eval()
    scores = []
    for index in range(len(clips.maps)):
        maps = torch.from_numpy(clips.scaled(index).transpose(1, 0, 2)[None])
        activations = torch.sigmoid(model(maps))[0].numpy()
        scores.append(score(decode(activations), clips.notes[index]))
    return np.mean(scores, axis=0)


def fit(model, average, options, next_batch, loss, judge):
    """Trains `model`; `average` follows it and is saved, with what `judge` says of it."""
    average.load_state_dict(model.state_dict())
    optimiser = torch.optim.AdamW(model.parameters(), lr=options.rate, weight_decay=1e-3)
    print(sum(p.numel() for p in model.parameters()), "weights", flush=True)
    begin, running = time.time(), 0.0
    for step in range(1, options.steps + 1):
        progress = step / options.steps
        rate = options.rate * min(1, step / 60) * (0.5 + 0.5 * math.cos(math.pi * progress))
        for group in optimiser.param_groups:
            group["lr"] = max(rate, LOWEST_RATE)
        model.train()
        maps, labels = next_batch()
        value = loss(model(maps), labels)
        optimiser.zero_grad()
        value.backward()
        torch.nn.utils.clip_grad_norm_(model.parameters(), 1.0)
        optimiser.step()
        running += value.item()
        with torch.no_grad():
            keep = min(0.99, step / (step + 20))
            for mine, theirs in zip(average.state_dict().values(), model.state_dict().values()):
                mine.copy_(theirs if not mine.is_floating_point() else mine * keep + theirs * (1 - keep))
        if step % 50 == 0:
            print(f"step {step} loss {running / 50:.4f} {time.time() - begin:.0f} s", flush=True)
            running = 0.0
        if step % 500 == 0 or step == options.steps:
            torch.save(average.state_dict(), options.out)
            average.eval()
            print(judge(average), flush=True)


def arguments(steps):
    parser = argparse.ArgumentParser()
    parser.add_argument("--data", required=True)
    parser.add_argument("--check")
    parser.add_argument("--out", required=True)
    parser.add_argument("--start")
    parser.add_argument("--steps", type=int, default=steps)
    parser.add_argument("--rate", type=float, default=4e-3)
    parser.add_argument("--threads", type=int, default=1)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    torch.manual_seed(options.seed)
    torch.set_num_threads(options.threads)
    return options


def load(options):
    """Clips to train on, clips kept apart, and check clips or None."""
    paths = sorted(glob.glob(options.data + "/*[0-9].npz"))
    check = Clips(sorted(glob.glob(options.check + "/*[0-9].npz"))) if options.check else None
    return Clips(paths[KEPT_APART:]), Clips(paths[:KEPT_APART]), check


def main():
    options = arguments(3000)
    rng = np.random.default_rng(options.seed)
    clips, apart, check = load(options)
    model = Reader()
    if options.start and options.start.endswith(".json"):
        model = reader_from_export(options.start, torch.cat([batch(clips, rng)[0] for _ in range(8)]))
    elif options.start:
        model.load_state_dict(torch.load(options.start))

    def judge(average):
        line = "apart %.3f %.3f" % tuple(evaluate(average, apart))
        return line + ("  check %.3f %.3f" % tuple(evaluate(average, check)) if check else "")

    fit(model, Reader(), options, lambda: batch(clips, rng), loss_of, judge)


if __name__ == "__main__":
    main()
