"""What both programs that train networks of hits share: clips as training.drums writes them, and how good a network is."""

import numpy as np
from scipy.optimize import linear_sum_assignment

from .drum_sounds import KINDS
from .drums import BANDS, FLOOR_DB, HOP, STEP_DB
from .synth import SAMPLE_RATE_HZ

RANGE_DB = 70
MOST = 1.15
TOP_QUANTILE = 0.99
# Of each band, what is louder than this share of its frames counts as loud.
BAND_QUANTILE = 0.97
FRAMES_PER_SECOND = SAMPLE_RATE_HZ / HOP


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
        self.loud = np.zeros((len(self.frames), BANDS))
        for i, hits in enumerate(self.hits):
            self.tops[i] = np.quantile(self.frames[i].max(axis=1), TOP_QUANTILE) * STEP_DB + FLOOR_DB
            self.loud[i] = np.quantile(self.frames[i], BAND_QUANTILE, axis=0) * STEP_DB + FLOOR_DB
            for seconds, kind, _ in hits:
                at = seconds * FRAMES_PER_SECOND
                for frame in range(int(at) - 2, int(at) + 4):
                    if 0 <= frame < self.frames.shape[1]:
                        value = max(0.0, 1 - abs(frame - at) / 2.5)
                        self.targets[i, frame, int(kind)] = max(self.targets[i, frame, int(kind)], value)

    def decibels(self, index):
        return self.frames[index].astype(np.float32) * STEP_DB + FLOOR_DB


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


def evaluate(judge, clips, indices, threshold=0.4):
    """`judge` gives the probabilities, frames × kinds, of the clip with an index. Onset F1 (of distinct times), F1 of hits with their kind, share of strokes that were found with their kind."""
    onset = [0, 0, 0]
    hit = [0, 0, 0]
    right = total = 0
    for i in indices:
        p = judge(i)
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
