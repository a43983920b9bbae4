"""Clips as bench/src/training writes them: NAME.json says what is heard and how many inputs a frame has, NAME.f32 holds the
frames."""
import glob
import json
import os

import numpy as np


def load_clips(folders):
    """Yields (about, frames × inputs) for every clip, by name within each folder."""
    for folder in folders:
        for path in sorted(glob.glob(os.path.join(folder, "*.json"))):
            about = json.load(open(path))
            yield about, np.fromfile(path[:-5] + ".f32", dtype=np.float32).reshape(-1, about["inputs"])


def padded(frames, count):
    """The frames and silence behind them up to `count`."""
    return np.pad(frames, ((0, max(0, count - len(frames))), (0, 0)))
