"""Networks of residual dilated convolutions, as core/src/reading/dilatedNetwork.ts runs them: what they compute, how they are
trained, and the file they are stored in."""
import base64
import json

import numpy as np
import torch
from torch.nn import functional


# A target that says nothing.
UNKNOWN = -1


class Network:
    def __init__(self, inputs, channels, dilations, outputs_bias, rng):
        self.inputs, self.channels, self.dilations = inputs, channels, dilations
        self.params = []
        sizes = [(3 * inputs, channels)] + [(3 * channels, channels)] * len(self.dilations) + [(channels, len(outputs_bias))]
        for i, (rows, columns) in enumerate(sizes):
            gain = 0.3 if 0 < i <= len(self.dilations) else 1.0
            self.params.append(rng.normal(0, gain * np.sqrt(2 / rows), (rows, columns)).astype(np.float32))
            self.params.append(np.zeros(columns, np.float32))
        self.params[-1][:] = outputs_bias


def forward(params, dilations, x, dropout=0.0):
    """Logits, batch × frames × outputs, of inputs of the same kind; dropout leaves out whole channels."""
    x = x.transpose(1, 2)
    for i, dilation in enumerate([1] + dilations):
        weights = params[2 * i].reshape(3, -1, params[2 * i].shape[1]).permute(2, 1, 0)
        y = functional.relu(functional.conv1d(x, weights, params[2 * i + 1], padding=dilation, dilation=dilation))
        if dropout and i:
            y = functional.dropout2d(y[..., None], dropout)[..., 0]
        x = y if i == 0 else x + y
    return x.transpose(1, 2) @ params[-2] + params[-1]


class Trainer:
    """Steps of a network's parameters, with which it shares their memory: Adam (Kingma & Ba 2015) along gradients whose norm is held to 1,
    with a cosine to the end."""

    def __init__(self, network, steps, rate, seed):
        torch.manual_seed(seed)
        self.params = [torch.from_numpy(each).requires_grad_() for each in network.params]
        self.dilations = network.dilations
        self.adam = torch.optim.Adam(self.params, rate)
        self.schedule = torch.optim.lr_scheduler.LambdaLR(
            self.adam, lambda step: min(1, (step + 1) / 100) * (0.5 + 0.5 * np.cos(np.pi * step / steps))
        )

    def losses(self, x, y, dropout=0.0):
        """Cross-entropy of each output; what is UNKNOWN counts as right."""
        logits = forward(self.params, self.dilations, torch.from_numpy(x), dropout)
        wanted = torch.from_numpy(y)
        losses = functional.binary_cross_entropy_with_logits(logits, wanted.clamp(min=0), reduction="none")
        return (losses * (wanted != UNKNOWN)).mean((0, 1))

    def learn(self, loss):
        self.adam.zero_grad()
        loss.backward()
        torch.nn.utils.clip_grad_norm_(self.params, 1)
        self.adam.step()
        self.schedule.step()


def take_up(network, path):
    """Puts stored weights, as export() wrote them, into a network of the same shape or a wider one, which then computes the same:
    what is new comes after what is there and does not reach it yet (Chen, Goodfellow and Shlens 2016, "Net2Net")."""
    stored = json.load(open(path))
    had, has = stored["channels"], network.channels
    for i, layer in enumerate(stored["layers"]):
        whole = np.frombuffer(base64.b64decode(layer["weights"]), dtype="<i2") * np.float32(layer["scale"])
        matrix, bias = network.params[2 * i], network.params[2 * i + 1]
        last = i == len(stored["layers"]) - 1
        taps = 1 if last else 3
        rows = network.inputs if i == 0 else had
        width = matrix.shape[1] if last else had
        new = matrix.reshape(taps, network.inputs if i == 0 else has, matrix.shape[1])
        new[:, rows:, :width] = 0
        new[:, :rows, :width] = whole.reshape(taps, rows, width)
        bias[:width] = layer["bias"]


def stored_layer(weights, bias, bits=16):
    """As core/src/reading/storedWeights.ts unpacks it: whole numbers and their scale."""
    scale = float(np.abs(weights).max() / (2 ** (bits - 1) - 1)) or 1.0
    whole = np.round(weights / scale).astype(f"<i{bits // 8}")
    return {
        "weights": base64.b64encode(whole.tobytes()).decode(),
        "scale": float(f"{scale:.6g}"),
        "bias": [float(f"{value:.5g}") for value in bias],
    }


def export(network, path):
    layers = [stored_layer(network.params[i], network.params[i + 1]) for i in range(0, len(network.params), 2)]
    with open(path, "w") as file:
        stored = {"inputs": network.inputs, "channels": network.channels, "dilations": [1] + network.dilations, "layers": layers}
        json.dump(stored, file)
        file.write("\n")
