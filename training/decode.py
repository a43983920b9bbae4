"""Activations to notes and their scores, as core/src/reading/chordal/decode.ts and bench/src/metrics.ts do it."""

import numpy as np
from scipy.optimize import linear_sum_assignment

from .features import HOP, SAMPLE_RATE_HZ

SECONDS_PER_FRAME = HOP / SAMPLE_RATE_HZ
ONSET_THRESHOLD = 0.35
ACTIVE_THRESHOLD = 0.45
ACTIVE_WITHIN = 10
END_BELOW = 0.55
END_FRAMES = 3
LEAST_FRAMES = 4
NEIGHBOURS = 2


def decode(activations, onset_threshold=ONSET_THRESHOLD):
    """(≥2, frames, 88) to notes (start, end, key, velocity)."""
    onset, active = activations[0], activations[1]
    frames = onset.shape[0]
    padded = np.pad(onset, ((NEIGHBOURS, NEIGHBOURS), (0, 0)))
    highest = np.max([padded[i:i + frames] for i in range(2 * NEIGHBOURS + 1)], axis=0)
    notes = []
    for key in range(onset.shape[1]):
        peaks = np.nonzero((onset[:, key] >= onset_threshold) & (onset[:, key] >= highest[:, key]))[0]
        for i, at in enumerate(peaks):
            following = peaks[i + 1] if i + 1 < len(peaks) else frames
            sounding = active[:, key]
            if sounding[at:at + ACTIVE_WITHIN].max() < ACTIVE_THRESHOLD:
                continue
            end, quiet = at + 1, 0
            while end < following and quiet < END_FRAMES:
                quiet = quiet + 1 if sounding[end] < END_BELOW and end > at + 2 else 0
                end += 1
            end -= quiet
            if end - at < LEAST_FRAMES:
                end = min(following, at + LEAST_FRAMES)
            left, mid, right = onset[max(0, at - 1), key], onset[at, key], onset[min(frames - 1, at + 1), key]
            bend = left - 2 * mid + right
            shift = np.clip(0.5 * (left - right) / bend, -0.5, 0.5) if bend < 0 else 0.0
            notes.append(((at + shift) * SECONDS_PER_FRAME, end * SECONDS_PER_FRAME, key,
                          activations[2][at, key] * 127 if len(activations) > 2 else 80))
    return sorted(notes)


def score(found, true):
    """(onset F1, onset and offset F1): 50 ms, same key, offset within 50 ms or a fifth of the length (MIREX)."""
    def f1(with_offsets):
        hits = 0
        for key in {int(n[2]) for n in true}:
            mine = [n for n in found if n[2] == key]
            theirs = [n for n in true if int(n[2]) == key]
            if not mine:
                continue
            fits = np.zeros((len(mine), len(theirs)))
            for i, a in enumerate(mine):
                for j, b in enumerate(theirs):
                    near = abs(a[0] - b[0]) <= 0.05
                    if with_offsets:
                        near = near and abs(a[1] - b[1]) <= max(0.05, 0.2 * (b[1] - b[0]))
                    fits[i, j] = near
            rows, columns = linear_sum_assignment(-fits)
            hits += fits[rows, columns].sum()
        return 2 * hits / max(1, len(found) + len(true))
    return f1(False), f1(True)
