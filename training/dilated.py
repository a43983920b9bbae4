"""Networks of residual dilated convolutions in NumPy alone, as core/src/reading/dilatedNetwork.ts runs them: forward, backward,
Adam (Kingma & Ba 2015) with a cosine to the end, and the file they are stored in."""
import base64
import json

import numpy as np


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

    @staticmethod
    def gather(x, dilation):
        batch, frames, channels = x.shape
        padded = np.zeros((batch, frames + 2 * dilation, channels), np.float32)
        padded[:, dilation : dilation + frames] = x
        return np.concatenate([padded[:, k * dilation : k * dilation + frames] for k in range(3)], axis=2)

    @staticmethod
    def scatter(g, dilation, channels):
        batch, frames, _ = g.shape
        padded = np.zeros((batch, frames + 2 * dilation, channels), np.float32)
        for k in range(3):
            padded[:, k * dilation : k * dilation + frames] += g[:, :, k * channels : (k + 1) * channels]
        return padded[:, dilation : dilation + frames]

    def forward(self, x, rng=None, dropout=0.0):
        kept = []
        for i, dilation in enumerate([1] + self.dilations):
            columns = self.gather(x, dilation)
            z = columns @ self.params[2 * i] + self.params[2 * i + 1]
            y = np.maximum(z, 0)
            mask = None
            if dropout > 0 and i > 0:
                mask = (rng.random((y.shape[0], 1, y.shape[2])) > dropout).astype(np.float32) / (1 - dropout)
                y = y * mask
            kept.append((columns, z, mask))
            x = y if i == 0 else x + y
        return x @ self.params[-2] + self.params[-1], (x, kept)

    def backward(self, logits_gradient, kept):
        last, layers = kept
        gradients = [None] * len(self.params)
        flat = lambda a: a.reshape(-1, a.shape[2])
        gradients[-2] = flat(last).T @ flat(logits_gradient)
        gradients[-1] = flat(logits_gradient).sum(0)
        g = logits_gradient @ self.params[-2].T
        for i in range(len(self.dilations), -1, -1):
            columns, z, mask = layers[i]
            gz = g if mask is None else g * mask
            gz = gz * (z > 0)
            gradients[2 * i] = flat(columns).T @ flat(gz)
            gradients[2 * i + 1] = flat(gz).sum(0)
            if i > 0:
                g = g + self.scatter(gz @ self.params[2 * i].T, self.dilations[i - 1], self.channels)
        return gradients


def loss_of(logits, target):
    p = 1 / (1 + np.exp(-np.clip(logits, -30, 30)))
    loss = -(target * np.log(p + 1e-7) + (1 - target) * np.log(1 - p + 1e-7))
    return loss.mean(axis=(0, 1)), p


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


def export(network, path):
    layers = []
    for i in range(0, len(network.params), 2):
        weights, bias = network.params[i], network.params[i + 1]
        scale = float(np.abs(weights).max() / 32767) or 1.0
        whole = np.round(weights / scale).astype("<i2")
        layers.append(
            {
                "weights": base64.b64encode(whole.tobytes()).decode(),
                "scale": float(f"{scale:.6g}"),
                "bias": [float(f"{value:.5g}") for value in bias],
            }
        )
    with open(path, "w") as file:
        stored = {"inputs": network.inputs, "channels": network.channels, "dilations": [1] + network.dilations, "layers": layers}
        json.dump(stored, file)
        file.write("\n")


class Adam:
    """Steps of `network.params` along gradients whose norm is held to 1."""

    def __init__(self, network, steps, rate=0.004):
        self.network, self.steps, self.rate, self.step = network, steps, rate, 0
        self.first = [np.zeros_like(p) for p in network.params]
        self.second = [np.zeros_like(p) for p in network.params]

    def update(self, gradients):
        norm = np.sqrt(sum(float((g**2).sum()) for g in gradients))
        clip = min(1.0, 1.0 / (norm + 1e-9))
        self.step += 1
        rate = self.rate * min(1, self.step / 100) * (0.5 + 0.5 * np.cos(np.pi * self.step / self.steps))
        for k, g in enumerate(gradients):
            g = g * clip
            self.first[k] = 0.9 * self.first[k] + 0.1 * g
            self.second[k] = 0.999 * self.second[k] + 0.001 * g * g
            first = self.first[k] / (1 - 0.9**self.step)
            second = self.second[k] / (1 - 0.999**self.step)
            self.network.params[k] -= (rate * first / (np.sqrt(second) + 1e-8)).astype(np.float32)
