"""
Training of the network that names drums by the whole recording: python3 -m training.train_kits FOLDER… --check FOLDER… --out FILE.json
[--epochs 60] [--width 32] [--seed 1] [--start FILE.json] [--beside FILE.json] [--teachers FILE.json …];
python3 -m training.train_kits --mean FILE.json … --out FILE.json for the mean of the weights of networks that began as one;
python3 -m training.train_kits --calibrate FILE.json --check FOLDER… for the numbers of core/src/reading/hits/hitConfidence.ts, each folder a kit.

Each folder holds what bench/src/training/writeStrokes.ts wrote. Attention over the strokes of a recording, as core/src/reading/hits/kitNetwork.ts
runs it; the clips must be others than those that the networks of frames were trained on, or these say too much.
"""

import argparse
import base64
import json

import numpy as np
import torch
from torch.nn import functional

from .clips import load_clips
from .dilated import stored_layer
from .drum_sounds import KINDS

HEADS = 4
BLOCKS = 2
PARTS = ("query", "key", "value", "taken", "wide", "narrow")
# The log odds of the networks of frames come first among the inputs, so many times smaller.
STARTING_SCALE = 4
# Levels of pairs of bands follow them, how these rose, and how bands in fours ring on.
LEVELS = slice(len(KINDS), len(KINDS) + 24)
RISES = slice(LEVELS.stop, LEVELS.stop + 24)
RINGS = slice(RISES.stop, RISES.stop + 36)
LOUDEST_INPUT = 1.15
# Of levels: 1 is 70 dB.
COLOUR = 0.2
OVER_KIT_STROKES = 4
OVER_KIT_SHARE = 0.1
MOST_STROKES = 160
FEWEST_STROKES = 8
BATCH = 12
# Drums with this much evidence are kept at middle sensitivity.
KEPT = 0.5
# How much what teachers say counts beside what was struck.
TAUGHT = 0.7
RATE = 2e-3
WEIGHT_DECAY = 0.05
DROPOUT = 0.1


def load(folders):
    """Pairs of strokes × inputs and strokes × kinds."""
    return [
        (features, np.array(about["struck"], np.float32)) for about, features in load_clips(folders) if len(features) > 0
    ]


class KitNetwork:
    """Matrices [input][output] and biases, in the order in which they are stored."""

    def __init__(self, inputs, width, rng):
        self.width = width
        sizes = {"query": (width, width), "key": (width, width), "value": (width, width), "taken": (width, width),
                 "wide": (width, 2 * width), "narrow": (2 * width, width)}
        self.layers = {"first": self.layer(rng, inputs, width), "last": self.layer(rng, width, len(KINDS), 0)}
        for block in range(BLOCKS):
            for part in PARTS:
                # What is added begins as nothing.
                self.layers[part, block] = self.layer(rng, *sizes[part], 0 if part in ("taken", "narrow") else 1)

    @staticmethod
    def layer(rng, rows, columns, gain=1.0):
        weights = torch.from_numpy(rng.normal(0, 1, (rows, columns)).astype(np.float32) * np.float32(gain / np.sqrt(rows)))
        return weights.requires_grad_(), torch.zeros(columns, requires_grad=True)

    @classmethod
    def taken_up(cls, stored):
        """As export() stored it."""
        def unpacked(layer):
            columns = len(layer["bias"])
            whole = np.frombuffer(base64.b64decode(layer["weights"]), np.int8).reshape(-1, columns)
            return torch.from_numpy(whole * np.float32(layer["scale"])), torch.tensor(layer["bias"])

        width = len(stored["first"]["bias"])
        network = cls(len(base64.b64decode(stored["first"]["weights"])) // width, width, np.random.default_rng(0))
        network.layers = {"first": unpacked(stored["first"]), "last": unpacked(stored["last"])}
        for block, parts in enumerate(stored["blocks"]):
            for part in PARTS:
                network.layers[part, block] = unpacked(parts[part])
        return network

    @classmethod
    def mean_of(cls, networks):
        """Of networks trained further from the same one (Wortsman et al. 2022, "Model soups")."""
        mean = networks[0]
        for name in mean.layers:
            mean.layers[name] = tuple(sum(parts) / len(parts) for parts in zip(*(each.layers[name] for each in networks)))
        return mean

    def parameters(self):
        return [each for layer in self.layers.values() for each in layer]

    def logits(self, x, there, dropout=0.0):
        """batch × strokes × kinds; `there`, batch × strokes, says which strokes are some."""
        batch, count, _ = x.shape
        size = self.width // HEADS

        def apply(name, y):
            weights, bias = self.layers[name]
            return y @ weights + bias

        def heads(y):
            return y.view(batch, count, HEADS, size).transpose(1, 2)

        h = torch.relu(apply("first", x))
        for block in range(BLOCKS):
            looked = normalized(h)
            query, key, value = (heads(apply((part, block), looked)) for part in PARTS[:3])
            likeness = (query @ key.transpose(-1, -2)) / np.sqrt(size)
            shares = likeness.masked_fill(~there[:, None, None, :], -1e9).softmax(-1)
            h = h + apply(("taken", block), (shares @ value).transpose(1, 2).reshape(batch, count, self.width))
            thought = functional.dropout(normalized(h), dropout) if dropout else normalized(h)
            h = h + apply(("narrow", block), torch.relu(apply(("wide", block), thought)))
        return apply("last", normalized(h)) + STARTING_SCALE * x[..., : len(KINDS)]

    def export(self, path, beside):
        """With the networks of another file, if there is one: the mean of what all say counts."""
        def stored(name):
            weights, bias = self.layers[name]
            return stored_layer(weights.detach().numpy(), bias.detach().numpy(), 8)

        others = json.load(open(beside))["networks"] if beside else []
        own = {"first": stored("first"), "last": stored("last"),
               "blocks": [{part: stored((part, block)) for part in PARTS} for block in range(BLOCKS)]}
        with open(path, "w") as file:
            json.dump({"heads": HEADS, "startingScale": STARTING_SCALE, "networks": [*others, own]}, file)
            file.write("\n")


def networks_of(path):
    with open(path) as file:
        return [KitNetwork.taken_up(each) for each in json.load(file)["networks"]]


def normalized(h):
    return h / torch.sqrt((h * h).mean(-1, keepdim=True) + 1e-5)


def heard_otherwise(x, y, rng):
    """Through another microphone and desk, by networks that are less sure, and of some recordings only a part of the strokes."""
    x = x.copy()
    bands = LEVELS.stop - LEVELS.start
    colour = np.interp(np.arange(bands), np.linspace(0, bands - 1, 6), rng.normal(0, COLOUR, 6))
    x[:, LEVELS] = np.clip(x[:, LEVELS] + colour + rng.normal(0, 0.03, bands) + rng.uniform(-0.1, 0.1), 0, LOUDEST_INPUT)
    x[:, RISES] *= rng.uniform(0.7, 1.2)
    x[:, RINGS] *= rng.uniform(0.7, 1.3)
    x[:, : len(KINDS)] += rng.normal(0, 0.15, len(KINDS)) + rng.normal(0, 0.1, (len(x), len(KINDS)))
    if rng.random() < 0.3:
        count = min(len(x), max(FEWEST_STROKES, int(len(x) * rng.uniform(0.3, 1))))
        kept = np.sort(rng.permutation(len(x))[:count])
        x, y = x[kept], y[kept]
    first = rng.integers(max(1, len(x) - MOST_STROKES + 1))
    return x[first : first + MOST_STROKES], y[first : first + MOST_STROKES]


def as_common(clips, rng):
    """Without most of the clips in which somebody shakes over a kit: among those that are composed there are far more of them than
    among songs, where a hat is a hat."""
    kick, shaker = KINDS.index("kick"), KINDS.index("shaker")
    over_kit = lambda y: min(y[:, kick].sum(), y[:, shaker].sum()) > OVER_KIT_STROKES
    return [(x, y) for x, y in clips if not over_kit(y) or rng.random() < OVER_KIT_SHARE]


def together(clips):
    """Tensors of several clips, with silence behind the shorter ones: inputs, what was struck, and which strokes are some."""
    count = max(len(x) for x, _ in clips)
    xs = np.zeros((len(clips), count, clips[0][0].shape[1]), np.float32)
    ys = np.zeros((len(clips), count, len(KINDS)), np.float32)
    there = np.zeros((len(clips), count), bool)
    for i, (x, y) in enumerate(clips):
        xs[i, : len(x)], ys[i, : len(x)], there[i, : len(x)] = x, y, True
    return map(torch.from_numpy, (xs, ys, there))


def evaluate(network, clips, threshold):
    """Precision, recall and F of drums at strokes."""
    right = read = struck = 0
    with torch.no_grad():
        for x, y in clips:
            xs, _, there = together([(x, y)])
            found = torch.sigmoid(network.logits(xs, there))[0].numpy() >= threshold
            right += (found & (y > 0.5)).sum()
            read += found.sum()
            struck += (y > 0.5).sum()
    return np.round((right / max(1, read), right / max(1, struck), 2 * right / max(1, read + struck)), 3)


def calibrated(networks, kits):
    """Steepness and shift of the logistic that turns probabilities of drums that are kept into how often they were struck (Platt 1999), each kit counting the same."""
    logits, right, shares = [], [], []
    with torch.no_grad():
        for clips in kits:
            kept = []
            for x, y in clips:
                xs, _, there = together([(x, y)])
                said = (sum(each.logits(xs, there) for each in networks) / len(networks))[0].numpy()
                likely = 1 / (1 + np.exp(-said))
                evidence = likely.copy()
                evidence[np.arange(len(x)), likely.argmax(1)] = 1 - np.prod(1 - likely, axis=1)
                kept += zip(said[evidence >= KEPT], y[evidence >= KEPT])
            logits += [logit for logit, _ in kept]
            right += [struck for _, struck in kept]
            shares += [1 / len(kept)] * len(kept)
    z, y, w = np.array(logits), np.array(right), np.array(shares)
    line = np.array([1.0, 0.0])
    for _ in range(30):
        p = 1 / (1 + np.exp(-(line[0] * z + line[1])))
        x = np.stack([z, np.ones_like(z)])
        line -= np.linalg.solve((x * (w * p * (1 - p))) @ x.T, x @ (w * (p - y)))
    return line


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("folders", nargs="*")
    parser.add_argument("--check", nargs="+", default=[])
    parser.add_argument("--mean", nargs="+", help="weights of networks; nothing is trained")
    parser.add_argument("--calibrate", help="weights; nothing is trained")
    parser.add_argument("--out")
    parser.add_argument("--epochs", type=int, default=60)
    parser.add_argument("--width", type=int, default=32)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--rate", type=float, default=RATE)
    parser.add_argument("--start", help="weights of a network to take up from")
    parser.add_argument("--teachers", nargs="+", default=[], help="weights of networks whose mean is to be learned (Hinton, Vinyals and Dean 2015)")
    parser.add_argument("--beside", help="weights of networks that go into the same file")
    options = parser.parse_args()
    if options.calibrate:
        print(calibrated(networks_of(options.calibrate), [load([folder]) for folder in options.check]))
        return
    if not options.out:
        parser.error("--out is needed")
    if options.mean:
        KitNetwork.mean_of([network for path in options.mean for network in networks_of(path)]).export(options.out, None)
        return
    rng = np.random.default_rng(options.seed)
    torch.manual_seed(options.seed)
    train = as_common(load(options.folders), rng)
    checks = {folder: load([folder]) for folder in options.check}
    network = networks_of(options.start)[0] if options.start else KitNetwork(train[0][0].shape[1], options.width, rng)
    teachers = [teacher for path in options.teachers for teacher in networks_of(path)]
    parameters = [each.requires_grad_() for each in network.parameters()]
    print(len(train), "clips,", sum(each.numel() for each in parameters), "weights", flush=True)
    adam = torch.optim.AdamW(parameters, options.rate, weight_decay=WEIGHT_DECAY)
    steps = options.epochs * (len(train) // BATCH)
    schedule = torch.optim.lr_scheduler.LambdaLR(
        adam, lambda step: min(1, (step + 1) / 100) * (0.5 + 0.5 * np.cos(np.pi * step / steps))
    )
    for epoch in range(options.epochs):
        order, total = rng.permutation(len(train)), 0.0
        for start in range(0, len(order) - BATCH + 1, BATCH):
            x, y, there = together([heard_otherwise(*train[i], rng) for i in order[start : start + BATCH]])
            if teachers:
                with torch.no_grad():
                    said = torch.sigmoid(sum(each.logits(x, there) for each in teachers) / len(teachers))
                y = TAUGHT * said + (1 - TAUGHT) * y
            losses = functional.binary_cross_entropy_with_logits(network.logits(x, there, DROPOUT), y, reduction="none")
            loss = (losses.sum(-1) * there).sum() / there.sum()
            adam.zero_grad()
            loss.backward()
            torch.nn.utils.clip_grad_norm_(parameters, 1)
            adam.step()
            schedule.step()
            total += loss.item()
        if epoch % 5 == 4 or epoch == options.epochs - 1:
            print(f"epoch {epoch + 1}: {total / (len(order) // BATCH):.4f}", flush=True)
            for folder, clips in checks.items():
                print("  ", folder, *(evaluate(network, clips, threshold) for threshold in (0.35, 0.45, 0.55)), flush=True)
            network.export(options.out, options.beside)


if __name__ == "__main__":
    main()
