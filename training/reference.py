"""
What the network here says of three tones, for the test that the application says the same:
python3 -m training.reference FILE.pt core/src/reading/chordal/reference.json
(and, with --coarse at the end, what the coarse network says: coarseReference.json)

The signal is made alike on both sides: decaying tones with four harmonics, one every half second.
"""

import json
import sys

import numpy as np
import torch

from .coarse import EVERY, coarse_reader
from .features import FLOOR_DB, SAMPLE_RATE_HZ, STORED_STEP_DB, FrontEnd, normalise
from .network import Reader

TONES = (48, 64, 79)
SECONDS = 2.0
CENTS = 20


def signal():
    n = np.arange(int(SECONDS * SAMPLE_RATE_HZ))
    out = np.zeros(len(n))
    for i, midi in enumerate(TONES):
        start = int((0.25 + 0.5 * i) * SAMPLE_RATE_HZ)
        t = (n[start:] - start) / SAMPLE_RATE_HZ
        hz = 440 * 2 ** ((midi + CENTS / 100 - 69) / 12)
        for harmonic in (1, 2, 3, 4):
            out[start:] += 0.2 / harmonic * np.sin(2 * np.pi * hz * harmonic * t) * np.exp(-3 * t)
    return out.astype(np.float32)


def main():
    torch.set_num_threads(1)
    coarse = "--coarse" in sys.argv
    model, every = (coarse_reader(), EVERY) if coarse else (Reader(), 1)
    model.load_state_dict(torch.load(sys.argv[1]))
    model.eval()
    maps = FrontEnd(CENTS).maps(signal())
    steps = np.clip(np.round((maps - FLOOR_DB) / STORED_STEP_DB), 0, 255)
    scaled = normalise(steps * STORED_STEP_DB + FLOOR_DB).astype(np.float32)[::every]
    with torch.no_grad():
        logits = model(torch.from_numpy(scaled.transpose(1, 0, 2)[None].copy()))[0].numpy()
    frames = list(range(10, maps.shape[0] - 10, 12))
    bins = list(range(5, 310, 9))
    keys = [m - 21 for m in TONES] + [20, 55, 70]
    result = {
        "frames": frames, "keys": keys,
        "logits": [[[round(float(head[f // every, k]), 3) for head in logits] for k in keys] for f in frames],
    }
    if not coarse:
        result |= {"bins": bins, "steps": [[[int(steps[f, which, b]) for b in bins] for which in (0, 1)] for f in frames]}
    with open(sys.argv[2], "w") as file:
        json.dump(result, file, separators=(",", ":"))
        file.write("\n")


if __name__ == "__main__":
    main()
