"""
Drum clips: single hits of many kits and computed ones, re-pitched, filtered and laid out as players play them.

python3 -m training.drums --out FILE.npz --clips 400 [--seed 1] [--shots FOLDER] [--machines 0.25] [--check] writes mel frames and labels of all clips;
python3 -m training.drums --unpack FILE.npz --out FOLDER puts each clip of such a file into two of its own.
"""

import argparse
import json
import multiprocessing
import os

import numpy as np

from .compose import compose
from .drum_sounds import KINDS, RIDES, altered, blended, computed_shot, one_shots, shots_of, sounding_along
from .generate import BANKS, PROGRAMS, bank_part, damage
from .synth import SAMPLE_RATE_HZ

PROGRAMS_OF_KITS = (0, 8, 16, 24, 25, 32, 40, 48)
# Debian's csound-soundfont (public domain) has drums of its own.
KIT_BANKS = [*BANKS, "/usr/share/sounds/sf2/sf_GMbank.sf2"]
CHECK_BANKS = ["/usr/share/sounds/sf2/TimGM6mb.sf2"]
CHECK_PROGRAMS = (0,)
SECONDS = 20
HOP = 128
WINDOW = 1024
BANDS = 48
LOWEST_HZ = 30
HIGHEST_HZ = 10500
FLOOR_DB = -110
# Softer strokes vanish under what rings; a label nobody can hear teaches nothing.
SOFTEST = 0.2
STEP_DB = 0.5
# How loud drums are beside each other, in dB (common practice: rides, hats and shakers lie well under the drums).
GAINS_DB = {"closed-hat": (-19, 0), "open-hat": (-15, 1), "cymbal": (-16, 1), "shaker": (-14, 1)}
OTHER_GAINS_DB = (-7, 2)
# Machines, all of whose drums are computed; of other kits so many drums are, and so many are one-shot recordings.
MACHINES = 0.25
COMPUTED = 0.2
ONE_SHOTS = 0.3
# How many drums of one kind a player has; the first cymbal is the ride.
SLOTS = {"tom": 3, "cymbal": 3, "hand-open": 3, "snare": 2}


def mel_bands():
    """Triangles, WINDOW/2+1 × BANDS, evenly on the mel scale (O'Shaughnessy 1987), each at least two bins wide."""
    mel = lambda hz: 2595 * np.log10(1 + hz / 700)
    edges = 700 * (10 ** (np.linspace(mel(LOWEST_HZ), mel(HIGHEST_HZ), BANDS + 2) / 2595) - 1)
    bins = edges * WINDOW / SAMPLE_RATE_HZ
    for i in range(1, len(bins)):
        bins[i] = max(bins[i], bins[i - 1] + 1)
    at = np.arange(WINDOW // 2 + 1)
    up = (at[:, None] - bins[None, :-2]) / (bins[1:-1] - bins[:-2])
    down = (bins[None, 2:] - at[:, None]) / (bins[2:] - bins[1:-1])
    return np.maximum(0, np.minimum(up, down))


def mel_frames(samples):
    """Power in bands in dB, frames × BANDS; frame t is centred on sample 128·t. In step with hits/melFrames.ts."""
    frames = len(samples) // HOP + 1
    padded = np.concatenate([np.zeros(WINDOW // 2, np.float32), samples, np.zeros(WINDOW // 2 + HOP, np.float32)])
    view = np.lib.stride_tricks.sliding_window_view(padded, WINDOW)[::HOP][:frames]
    window = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(WINDOW) / WINDOW)
    power = np.abs(np.fft.rfft(view * (window * 2 / window.sum()), axis=1)) ** 2
    return 10 * np.log10(power @ mel_bands() + 1e-12)


def onset_of(shot):
    """Seconds until it is first within 20 dB of its loudest in the first 60 ms."""
    level = np.abs(shot[: int(0.06 * SAMPLE_RATE_HZ)])
    return float(np.argmax(level >= 0.1 * level.max())) / SAMPLE_RATE_HZ


def pattern(rng):
    """(time, kind, loudness 0–1, which of the drums of its kind) as kits, hand drums, shakers and fills are played."""
    beat = 60 / rng.uniform(65, 180)
    swing = rng.uniform(0.5, 0.67) if rng.random() < 0.4 else 0.5
    style = str(rng.choice(["kit"] * 5 + ["hands"] * 2 + ["fills"] * 2 + ["single", "free"]))
    jitter = rng.uniform(0.001, 0.012)
    hits = []

    def any_slot(kind):
        # Seldom the other snare, which is the rim or a hand clap.
        return 0 if kind == "snare" and rng.random() < 0.9 else int(rng.integers(SLOTS.get(kind, 1)))

    def add(step, kind, loud, chance=1.0, slot=None):
        if rng.random() < chance:
            whole, half = divmod(step, 1)
            time = (whole + (half if half != 0.5 else swing)) * beat + 0.2
            loud = float(np.clip(loud * rng.uniform(0.6, 1.15), SOFTEST, 1))
            hits.append((time + rng.normal(0, jitter), kind, loud, any_slot(kind) if slot is None else slot))

    beats = int((SECONDS - 1) / beat)
    metal = str(rng.choice(["closed-hat"] * 6 + ["cymbal"] * 3 + ["shaker", "tom"]))
    grid = float(rng.choice([0.25, 0.5, 0.5, 1]))
    kicks = [(0, 1), (2, 0.8)] + [(float(rng.integers(16)) / 4, rng.uniform(0.2, 0.9)) for _ in range(3)]
    drums = {"hands": ["hand-open", "hand-open", "hand-slap"] + ["shaker"] * int(rng.integers(2)), "fills": ["tom", "tom", "snare", "kick", "cymbal"],
             "single": [str(rng.choice(KINDS))], "free": list(KINDS)}.get(style, [])
    accent = rng.uniform(0.3, 0.9)
    # Who rides may tread the hat on two and four.
    treads = metal == "cymbal" and rng.random() < 0.5
    second_snare = rng.random() < 0.1

    def play_cell(kinds):
        """Four beats that come again and again."""
        filled = rng.uniform(0.3, 0.9)
        steps = [step for step in np.arange(0, 4, 0.25) if rng.random() < filled]
        drums_of_steps = [str(rng.choice(kinds)) for _ in steps]
        cell = [(step, kind, rng.uniform(0.25, 1), any_slot(kind)) for step, kind in zip(steps, drums_of_steps)]
        for bar in range(0, beats, 4):
            for step, kind, loud, slot in cell:
                add(bar + step, kind, loud, 0.93, slot)

    if style == "kit":
        for bar in range(0, beats, 4):
            fill = rng.random() < 0.15
            for step, chance in kicks:
                add(bar + step, "kick", 0.9, chance)
            for step in (1, 3):
                add(bar + step, "snare", 0.9, 0.9, int(second_snare))
                if treads:
                    add(bar + step, "closed-hat", 0.5, 0.95)
            for step in np.arange(0, 4, 0.25):
                add(bar + step, "snare", 0.3, 0.05)
            for step in np.arange(0, 4, grid):
                if fill and step >= 2:
                    add(bar + step, "tom", 0.8, 0.8)
                else:
                    kind = "open-hat" if rng.random() < 0.07 else metal
                    add(bar + step, kind, 0.8 if step % 1 == 0 else accent, 0.95, 0)
            add(bar, "cymbal", 0.9, 0.25, int(rng.integers(1, SLOTS["cymbal"])))
    elif style == "free":
        time = 0.2
        while time < SECONDS - 0.6:
            for _ in range(2 if rng.random() < 0.25 else 1):
                kind = str(rng.choice(drums))
                hits.append((time + rng.normal(0, 0.004), kind, rng.uniform(SOFTEST, 1), any_slot(kind)))
            time += rng.exponential(0.25) + 0.06
    else:
        play_cell(drums)
    # A second player: somebody shakes or taps through, somebody drums by hand over a kit. Strokes fall together.
    if rng.random() < {"kit": 0.1, "hands": 0.7, "single": 0.2}.get(style, 0):
        steady, through = str(rng.choice(["shaker", "shaker", "shaker", "closed-hat"])), float(rng.choice([0.25, 0.5, 0.5, 1]))
        for step in np.arange(0, beats, through):
            add(step, steady, 0.8 if step % 1 == 0 else accent, 0.95)
    if style == "kit" and rng.random() < 0.15:
        play_cell(["hand-open", "hand-open", "hand-slap"])
    return sorted(h for h in hits if 0.02 < h[0] < SECONDS - 0.4)


def drum(rng, kind, slot, kits, kit, check, shots, machine):
    """A drum of a kit in layers from soft to loud: a recorded one of this kit or of another, a computed one, or parts of two."""
    def recorded(of):
        shots = shots_of(*of)
        variants = [k for k in shots if k[0] == kind and (k[1] in RIDES) == (kind == "cymbal" and slot == 0)]
        return shots[variants[rng.integers(len(variants))]] if variants else None

    if check:
        return recorded(kit)
    other = kits[rng.integers(len(kits))]
    layers = recorded(kit if rng.random() < 0.6 else other)
    if layers is None or machine or rng.random() < COMPUTED:
        layers = [computed_shot(rng, kind)]
    elif kind in shots and rng.random() < ONE_SHOTS:
        layers = [shots[kind][rng.integers(len(shots[kind]))]]
    elif rng.random() < 0.25:
        high = computed_shot(rng, kind) if rng.random() < 0.4 else (recorded(other) or layers)[-1]
        high = np.pad(high, (0, max(0, len(layers[0]) - len(high))))
        state = rng.integers(1 << 31)
        layers = [blended(np.random.default_rng(state), each, high[: len(each)]) for each in layers]
    state = rng.integers(1 << 31)
    changed = []
    for each in layers:
        # All layers are of one drum.
        own = np.random.default_rng(state)
        changed.append(sounding_along(own, kind, altered(own, each)))
    return changed


def clip(seed, check, shots_folder, machines):
    rng = np.random.default_rng(seed)
    shots = one_shots(shots_folder) if shots_folder else {}
    machine = not check and rng.random() < machines
    kits = [(path, program) for path in (CHECK_BANKS if check else KIT_BANKS) for program in (CHECK_PROGRAMS if check else PROGRAMS_OF_KITS)]
    kit = kits[rng.integers(len(kits))]
    chosen, gains = {}, {}
    out = np.zeros(SECONDS * SAMPLE_RATE_HZ + 8 * SAMPLE_RATE_HZ, np.float32)
    labels, ringing = [], {}
    for time, kind, loud, slot in pattern(rng):
        if kind not in gains:
            gains[kind] = 10 ** (rng.uniform(*GAINS_DB.get(kind, OTHER_GAINS_DB)) / 20)
        if (kind, slot) not in chosen:
            chosen[kind, slot] = drum(rng, kind, slot, kits, kit, check, shots, machine)
        layers = chosen[kind, slot]
        if not layers:
            continue
        shot = layers[min(len(layers) - 1, int(loud * len(layers)))]
        at = int(time * SAMPLE_RATE_HZ)
        if kind in ("closed-hat", "open-hat") and "open-hat" in ringing:
            # The pedal chokes a ringing hat.
            begin, sound = ringing.pop("open-hat")
            cut = at - begin
            if 0 < cut < len(sound):
                fade = 1 - np.exp(-np.arange(len(sound) - cut) / 300)
                out[at:begin + len(sound)] -= sound[cut:] * fade
        sound = shot * gains[kind] * loud ** 1.3
        out[at:at + len(sound)] += sound
        if kind == "open-hat":
            ringing[kind] = (at, sound)
        labels.append((time + onset_of(shot), KINDS.index(kind), loud))
    sound = out[: SECONDS * SAMPLE_RATE_HZ]
    if rng.random() < 0.12:
        kind = str(rng.choice(["guitar", "keys"]))
        tonal, _ = bank_part(rng, CHECK_BANKS if check else BANKS, PROGRAMS[kind][:3], compose(rng, kind, SECONDS), 0.0)
        level = np.sqrt((sound ** 2).mean()) / (np.sqrt((tonal ** 2).mean()) + 1e-9)
        sound = sound + tonal * level * 10 ** (-rng.uniform(3, 18) / 20)
    return stored(damage(rng, sound, rng.random() < 0.2)), np.array(labels, np.float32).reshape(-1, 3)


def without_drums(seed):
    """A clip in which guitars, keys or what else is held play, and nobody drums."""
    rng = np.random.default_rng(seed)
    kind = str(rng.choice(list(PROGRAMS)))
    sound, _ = bank_part(rng, BANKS, PROGRAMS[kind], compose(rng, kind, SECONDS), 0.0)
    return stored(damage(rng, sound, rng.random() < 0.3)), np.zeros((0, 3), np.float32)


def stored(sound):
    return np.clip(np.round((mel_frames(sound) - FLOOR_DB) / STEP_DB), 0, 255).astype(np.uint8)


def unpack(path, folder):
    """NAME.u8 (frames × BANDS) and NAME.json (times and kinds of what was struck)."""
    os.makedirs(folder, exist_ok=True)
    with np.load(path) as file:
        frames, hits = file["frames"], file["hits"]
    for i, each in enumerate(frames):
        each.tofile(os.path.join(folder, f"{i:05d}.u8"))
        own = [[float(seconds), int(kind)] for _, seconds, kind, _ in hits[hits[:, 0] == i]]
        with open(os.path.join(folder, f"{i:05d}.json"), "w") as file:
            json.dump({"hits": own}, file)


def _job(job):
    return clip(*job)


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("--out", required=True)
    parser.add_argument("--clips", type=int, default=400)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--processes", type=int, default=2)
    parser.add_argument("--check", action="store_true")
    parser.add_argument("--shots", help="folder of one-shot recordings")
    parser.add_argument("--machines", type=float, default=MACHINES, help="share of clips")
    parser.add_argument("--without-drums", action="store_true")
    parser.add_argument("--unpack", help="a file of clips")
    options = parser.parse_args()
    if options.unpack:
        return unpack(options.unpack, options.out)
    seeds = [options.seed * 1_000_000 + i for i in range(options.clips)]
    with multiprocessing.get_context("spawn").Pool(options.processes) as pool:
        if options.without_drums:
            made = pool.map(without_drums, seeds, chunksize=4)
        else:
            made = pool.map(_job, [(seed, options.check, options.shots, options.machines) for seed in seeds], chunksize=4)
    np.savez(options.out, frames=np.stack([m[0] for m in made]), hits=np.concatenate(
        [np.column_stack([np.full(len(m[1]), i), m[1]]) for i, m in enumerate(made)]).astype(np.float32))


if __name__ == "__main__":
    main()
