"""
Takes training up from the weights that ship (networkWeights.json) instead of a checkpoint.

The file holds convolutions with their batch norms folded in. Norms are put back so that the network computes what the
file says, in training and afterwards: their statistics are measured on clips, their scales undo them.
"""

import base64
import json

import numpy as np
import torch

from .network import CHANNELS, KEYS, Reader


def _weight(layer, inputs, outputs):
    """(outputs, inputs, frames, keys) from eight bits in the order [frame][key][input][output]."""
    frames, keys = layer["size"]
    whole = np.frombuffer(base64.b64decode(layer["weights"]), np.int8).astype(np.float32)
    weight = whole.reshape(frames, keys, inputs, outputs) * np.array(layer["scales"], np.float32)
    return torch.from_numpy(np.ascontiguousarray(weight.transpose(3, 2, 0, 1)))


def _restore(norm, values, bias):
    """Statistics of what comes in; what goes out is `values + bias` as before."""
    mean, variance = values.mean(dim=(0, 2, 3)), values.var(dim=(0, 2, 3), unbiased=False)
    norm.running_mean.copy_(mean)
    norm.running_var.copy_(variance)
    norm.weight.copy_(torch.sqrt(variance + norm.eps))
    norm.bias.copy_(mean + bias)


@torch.no_grad()
def reader_from_export(path, maps):
    """`maps` (batch, 2, frames, 310): clips that the statistics are measured on."""
    with open(path) as file:
        data = json.load(file)
    model = Reader()
    planes = model.first.weight.shape[1]
    model.first.weight.copy_(_weight(data["first"], planes, CHANNELS))
    bias = torch.tensor(data["first"]["bias"], dtype=torch.float32).reshape(KEYS, CHANNELS).T
    model.key_bias.copy_(bias[None, :, None, :])
    x = model.first(model.stack(maps)) + model.key_bias
    _restore(model.first_norm, x, 0)
    x = torch.relu(x)
    for block, layer in zip(model.blocks, data["blocks"]):
        block.convolution.weight.copy_(_weight(layer, CHANNELS, CHANNELS))
        _restore(block.norm, block.convolution(x), torch.tensor(layer["bias"]))
        block.eval()
        x = block(x)
    heads = data["heads"]
    model.heads.weight.copy_(_weight(heads, CHANNELS, len(heads["bias"])))
    model.heads.bias.copy_(torch.tensor(heads["bias"]))
    return model
