"""Trains the network that tells where notes of chordal recordings end (core/src/reading/chordal/noteEnds.ts).

    python3 -m training.train_note_ends FOLDER... --check FOLDER... --epochs 12 --out core/src/reading/chordal/noteEndWeights.json

Each folder holds what bench/src/training/writeNoteEnds.ts wrote. What share of ends is right in --check, which it does not learn from,
is printed, beside that of the ends as they are found.

The end of a note lies where the sum of what the network says of the steps before it is greatest. So these sums are trained as the log
odds of all ends that are possible, with all that are near enough as the right ones; a little cross-entropy of single steps shows the way
at the beginning.
"""
import argparse
from collections import defaultdict

import numpy as np
import torch
from torch.nn import functional

from .clips import load_clips, padded
from .dilated import Network, Trainer, export, forward

DILATIONS = [2, 4, 8, 16]
BATCH = 64
# Weight of single steps beside that of ends.
STEP_SHARE = 0.3
# A step counts the more the nearer the end must be told; in steps, 50 ms.
NEAR = 2.15
USUAL_STEPS = 10
NEVER = -1e9


class Notes:
    """`rows` of each, and of each (from, to, end, near, found) in steps."""

    def __init__(self, folders):
        self.rows, places, self.kinds = [], [], []
        for about, rows in load_clips(folders):
            at = 0
            for note in about["notes"]:
                self.rows.append(rows[at : at + note["rows"]].astype(np.float16))
                at += note["rows"]
                places.append([note[name] for name in ("from", "to", "end", "near", "found")])
                self.kinds.append(about["kind"])
        self.places = np.array(places, np.float32)

    def batches(self, rng=None):
        """Notes of about the same length."""
        order = np.argsort([len(rows) for rows in self.rows], kind="stable")
        groups = [order[first : first + BATCH] for first in range(0, len(order), BATCH)]
        if rng is not None:
            rng.shuffle(groups)
        for group in groups:
            steps = max(1, max(len(self.rows[i]) for i in group))
            x = np.stack([padded(self.rows[i].astype(np.float32), steps) for i in group])
            yield group, torch.from_numpy(x), torch.from_numpy(self.places[group])


def sums_of(logits, places):
    """Of each end that is possible, 0 … steps, the sum of the logits before it, and which are possible at all."""
    steps = torch.arange(logits.shape[1])
    inside = (steps >= places[:, 0:1]) & (steps < places[:, 1:2])
    sums = functional.pad(torch.cumsum(logits * inside, 1), (1, 0))
    ends = torch.arange(logits.shape[1] + 1)
    possible = (ends >= places[:, 0:1]) & (ends < places[:, 1:2] + 1)
    return sums, inside, ends, possible


def loss_of(logits, places):
    sums, inside, ends, possible = sums_of(logits, places)
    end, near = places[:, 2:3], places[:, 3:4]
    right = possible & ((ends - end).abs() <= near)
    known = right.any(1)
    chance = torch.logsumexp(sums.masked_fill(~right, NEVER), 1) - torch.logsumexp(sums.masked_fill(~possible, NEVER), 1)
    sounds = (torch.arange(logits.shape[1]) < end).float()
    single = functional.binary_cross_entropy_with_logits(logits, sounds, reduction="none") * inside * (NEAR / near)
    return (STEP_SHARE / USUAL_STEPS * single.sum() - (chance * known).sum()) / len(places)


@torch.no_grad()
def ends_right(params, dilations, notes):
    """Of each note whether its end is right, as the network says and as it was found; and whether it is too early."""
    ends = np.zeros(len(notes.rows), np.float32)
    for group, x, places in notes.batches():
        sums, _, _, possible = sums_of(forward(params, dilations, x)[..., 0], places)
        ends[group] = sums.masked_fill(~possible, NEVER).argmax(1).numpy()
    _, to, end, near, found = notes.places.T
    ends = np.minimum(ends, to)
    return abs(ends - end) <= near, abs(found - end) <= near, ends < end - near


def report(params, dilations, notes):
    said, found, early = ends_right(params, dilations, notes)
    by_kind = defaultdict(list)
    for i, kind in enumerate(notes.kinds):
        by_kind[kind.split()[-1]].append(i)
    for kind, which in by_kind.items():
        shares = [each[which].mean() for each in (found, said, early)]
        print(f"  {kind}: {len(which)} notes, ends right {shares[0]:.3f} -> {shares[1]:.3f}, too early {shares[2]:.3f}", flush=True)


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("folders", nargs="+")
    parser.add_argument("--check", nargs="*", default=[])
    parser.add_argument("--epochs", type=int, default=12)
    parser.add_argument("--channels", type=int, default=16)
    parser.add_argument("--rate", type=float, default=0.004)
    parser.add_argument("--threads", type=int, default=1)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--out")
    options = parser.parse_args()
    torch.set_num_threads(options.threads)
    rng = np.random.default_rng(options.seed)
    train = Notes(options.folders)
    checks = {folder: Notes([folder]) for folder in options.check}
    network = Network(train.rows[0].shape[1], options.channels, DILATIONS, [0], rng)
    print(f"{len(train.rows)} notes, {sum(map(len, train.rows))} steps", flush=True)
    trainer = Trainer(network, options.epochs * -(-len(train.rows) // BATCH), options.rate, options.seed)
    for epoch in range(options.epochs):
        total, count = 0.0, 0
        for _, x, places in train.batches(rng):
            loss = loss_of(forward(trainer.params, network.dilations, x)[..., 0], places)
            trainer.learn(loss)
            total += loss.item()
            count += 1
        print(f"epoch {epoch + 1}: {total / count:.4f}", flush=True)
    for folder, notes in checks.items():
        print(folder)
        report(trainer.params, network.dilations, notes)
    if options.out:
        export(network, options.out)


if __name__ == "__main__":
    main()
