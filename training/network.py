"""
The network: harmonic stacking (Bittner et al. 2017) and residual convolutions on frames × 88 keys.

Inference in core/src/reading/chordal follows these layers one for one; `export.py` folds the batch norms.
"""

import numpy as np
import torch
from torch import nn
from torch.nn import functional as F

KEYS = 88
FINE = 3 * KEYS
CHANNELS = 24
HARMONICS_A = (0.5, 1, 2, 3, 4, 5, 6, 7, 8, 10)
HARMONICS_B = (1, 2, 3, 4, 6, 8)
HEADS = ("onset", "active", "velocity", "offset")
FIRST_BIASES = (-5.5, -3.0, 0.6, -5.5)
# Of each block: taps over frames and keys, and how far these lie apart.
BLOCKS = (((3, 3), (1, 1)), ((1, 5), (1, 12)), ((3, 1), (2, 1)), ((3, 3), (4, 1)),
          ((1, 3), (1, 19)), ((3, 1), (8, 1)), ((3, 1), (16, 1)))


def offsets(harmonics):
    """Bins by which the map is shifted so that a key sees its own harmonic."""
    return [int(round(36 * np.log2(h))) for h in harmonics]


class Stack(nn.Module):
    """(batch, 2, frames, 310) to (batch, 16, frames, 264); beyond the map there is silence."""

    def forward(self, maps):
        planes = []
        bins = maps.shape[-1]
        for which, harmonics in ((0, HARMONICS_A), (1, HARMONICS_B)):
            for offset in offsets(harmonics):
                low, high = max(0, offset), min(bins, offset + FINE)
                plane = maps[:, which, :, low:high]
                planes.append(F.pad(plane, (low - offset, offset + FINE - high)))
        return torch.stack(planes, 1)


class Block(nn.Module):
    """Adds a convolution over time or keys to what comes in; `apart` frames and keys lie between its taps."""

    def __init__(self, channels, size, apart):
        super().__init__()
        padding = tuple(step * (length // 2) for step, length in zip(apart, size))
        self.convolution = nn.Conv2d(channels, channels, size, dilation=apart, padding=padding, bias=False)
        self.norm = nn.BatchNorm2d(channels)

    def forward(self, x):
        return x + F.relu(self.norm(self.convolution(x)))


class Reader(nn.Module):
    def __init__(self, channels=CHANNELS, blocks=BLOCKS, heads=len(HEADS)):
        super().__init__()
        planes = len(HARMONICS_A) + len(HARMONICS_B)
        self.stack = Stack()
        # The middle bin of key k is 3k + 1: with padding 1 the kernel of five reaches two bins to either side.
        self.first = nn.Conv2d(planes, channels, (3, 5), stride=(1, 3), padding=(1, 1), bias=False)
        self.key_bias = nn.Parameter(torch.zeros(1, channels, 1, KEYS))
        self.first_norm = nn.BatchNorm2d(channels)
        self.blocks = nn.ModuleList([Block(channels, size, apart) for size, apart in blocks])
        self.heads = nn.Conv2d(channels, heads, (3, 1), padding=(1, 0))
        with torch.no_grad():
            self.heads.weight.mul_(0.1)
            self.heads.bias.copy_(torch.tensor(FIRST_BIASES[:heads]))

    def forward(self, maps):
        """(batch, 2, frames, 310) in 0–1 to logits (batch, heads, frames, 88)."""
        x = F.relu(self.first_norm(self.first(self.stack(maps)) + self.key_bias))
        for block in self.blocks:
            x = block(x)
        return self.heads(x)
