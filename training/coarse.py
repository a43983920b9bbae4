"""
The coarse network: python3 -m training.coarse --data FOLDER --start networkWeights.json --out FILE.pt [--steps 4000]

Chords need less than notes: a smaller network on every other frame learns to say what the whole one says of onsets and
of what sounds (Hinton et al. 2015, "Distilling the knowledge in a neural network").
"""

import numpy as np
import torch
from torch.nn import functional as F

from .network import Reader
from .resume import reader_from_export
from .train import BATCH, arguments, batch, draw, fit, load, moved

CHANNELS = 16
BLOCKS = (((3, 3), (1, 1)), ((1, 5), (1, 12)), ((3, 3), (2, 1)), ((1, 3), (1, 19)), ((3, 1), (4, 1)), ((3, 1), (8, 1)))
HEADS = 2
EVERY = 2
FRAMES = 256


def coarse_reader():
    return Reader(CHANNELS, BLOCKS, HEADS)


@torch.no_grad()
def said(model, clips):
    """The whole network's output for each clip, probabilities × 255 (heads, frames, keys)."""
    result = []
    for index in range(len(clips.maps)):
        maps = torch.from_numpy(clips.scaled(index).transpose(1, 0, 2)[None])
        result.append((torch.sigmoid(model(maps))[0, :HEADS] * 255 + 0.5).to(torch.uint8).numpy())
        if index % 100 == 0:
            print(f"teacher {index}", flush=True)
    return result


def next_batch(clips, answers, rng):
    """The targets stay those of the clips as they are while the inputs are made louder, brighter or moved."""
    maps, wanted = [], []
    for _ in range(BATCH):
        x, index, first, keys = draw(clips, rng, EVERY * FRAMES)
        answer = answers[index][:, first:first + EVERY * FRAMES:EVERY]
        maps.append(x[::EVERY].transpose(1, 0, 2))
        wanted.append(moved(answer, keys).astype(np.float32) / 255)
    return torch.from_numpy(np.stack(maps)), torch.from_numpy(np.stack(wanted))


def loss_of(logits, wanted):
    onset, active = wanted.unbind(1)
    onset_loss = F.binary_cross_entropy_with_logits(logits[:, 0], onset, weight=1 + 4 * onset)
    active_loss = F.binary_cross_entropy_with_logits(logits[:, 1], active, weight=1 + active)
    return 4 * onset_loss + active_loss


@torch.no_grad()
def distance(model, clips, answers):
    """Mean absolute differences of onset and active where either says more than 0.1."""
    sums, counts = np.zeros(HEADS), np.zeros(HEADS)
    for index, answer in enumerate(answers):
        maps = torch.from_numpy(clips.scaled(index)[::EVERY].transpose(1, 0, 2)[None].copy())
        mine, theirs = torch.sigmoid(model(maps))[0].numpy(), answer[:, ::EVERY] / 255
        some = (mine > 0.1) | (theirs > 0.1)
        sums += (np.abs(mine - theirs) * some).sum(axis=(1, 2))
        counts += some.sum(axis=(1, 2))
    return sums / counts


def main():
    options = arguments(4000)
    rng = np.random.default_rng(options.seed)
    clips, apart, check = load(options)
    teacher = reader_from_export(options.start, torch.cat([batch(clips, rng)[0] for _ in range(8)]))
    teacher.eval()
    answers = said(teacher, clips)
    kept = [(name, part, said(teacher, part)) for name, part in (("apart", apart), ("check", check)) if part]

    def judge(average):
        return "  ".join("%s %.3f %.3f" % (name, *distance(average, part, theirs)) for name, part, theirs in kept)

    fit(coarse_reader(), coarse_reader(), options, lambda: next_batch(clips, answers, rng), loss_of, judge)


if __name__ == "__main__":
    main()
