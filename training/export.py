"""
Weights for the application: python3 -m training.export FILE.pt core/src/reading/chordal/networkWeights.json
(and, with --coarse at the end, of the coarse network: coarseNetworkWeights.json)

Batch norms are folded into weights and biases; weights become whole numbers of eight bits with a scale for each
output (a hundredth of the largest weight is lost at most, and no score).
"""

import base64
import json
import sys

import numpy as np
import torch

from .coarse import coarse_reader
from .network import HARMONICS_A, HARMONICS_B, Reader

BIAS_DIGITS = 5


def layer(weight, bias, apart):
    """`weight`: (outputs, inputs, frames, keys)."""
    scales = np.abs(weight).reshape(len(weight), -1).max(axis=1) / 127 + 1e-12
    whole = np.round(weight / scales[:, None, None, None]).astype(np.int8)
    # [frame][key][input][output], as the inner loops read them.
    order = whole.transpose(2, 3, 1, 0)
    return {
        "size": [int(weight.shape[2]), int(weight.shape[3])],
        "apart": [int(a) for a in apart],
        "weights": base64.b64encode(np.ascontiguousarray(order).tobytes()).decode(),
        "scales": [float(f"{s:.7g}") for s in scales],
        "bias": [round(float(b), BIAS_DIGITS) for b in np.asarray(bias).ravel()],
    }


def fold(weight, norm):
    scale = norm.weight / torch.sqrt(norm.running_var + norm.eps)
    return weight * scale[:, None, None, None], scale, norm.bias - norm.running_mean * scale


@torch.no_grad()
def export(model):
    model.eval()
    weight, scale, shift = fold(model.first.weight, model.first_norm)
    # A bias for each key and output.
    first_bias = (model.key_bias[0, :, 0] * scale[:, None] + shift[:, None]).T
    blocks = []
    for block in model.blocks:
        folded, _, bias = fold(block.convolution.weight, block.norm)
        blocks.append(layer(folded.numpy(), bias.numpy(), block.convolution.dilation))
    return {
        "harmonics": [list(HARMONICS_A), list(HARMONICS_B)],
        "first": layer(weight.numpy(), first_bias.numpy(), (1, 1)),
        "blocks": blocks,
        "heads": layer(model.heads.weight.numpy(), model.heads.bias.numpy(), (1, 1)),
    }


def main():
    model = coarse_reader() if "--coarse" in sys.argv else Reader()
    model.load_state_dict(torch.load(sys.argv[1]))
    with open(sys.argv[2], "w") as file:
        json.dump(export(model), file, separators=(",", ":"))
        file.write("\n")


if __name__ == "__main__":
    main()
