"""
Training clips: python3 -m training.generate --out FOLDER --clips 1000 [--seed 1] [--processes 2] [--check|--without-notes|--pianos]

Writes maps (uint8, half decibels) and labels of 20-second clips. With --check the clips come from a bank that is
never trained on; with --without-notes nothing in them is a note; with --pianos one piano plays alone.
"""

import argparse
import multiprocessing
import os

import numpy as np
from scipy.signal import fftconvolve, lfilter

from . import procedural
from .compose import compose
from .features import BINS, FLOOR_DB, HOP, STORED_STEP_DB, FrontEnd
from .measure import NoteLengths
from .synth import SAMPLE_RATE_HZ, Synth

SECONDS = 20
FRAMES = SECONDS * SAMPLE_RATE_HZ // HOP + 1
KEYS = 88
LOWEST_KEY = 21

# Banks whose licence lets weights trained on them ship (MIT; parts public domain or CC0).
BANKS = ["/usr/share/sounds/sf2/FluidR3_GM.sf2", "/usr/share/sounds/sf3/MuseScore_General_Full.sf3"]
CHECK_BANKS = ["/usr/share/sounds/sf2/TimGM6mb.sf2"]
PROGRAMS = {
    "guitar": [24, 24, 25, 25, 25, 26, 27, 27, 28, 30, 29, 46, 15, 104, 105, 106, 107],
    "keys": [0, 0, 0, 1, 2, 3, 4, 4, 5, 5, 6, 7, 8, 9, 10, 11, 12, 13, 108],
    "held": [16, 17, 18, 19, 20, 21, 22, 48, 49, 50, 51, 52, 40, 41, 42, 56, 61, 65, 71, 73, 80, 81, 88, 89, 90, 94],
}
CHECK_PROGRAMS = {"guitar": [24, 25, 26, 27, 28], "keys": [0, 1, 2, 4, 5, 6], "held": [16, 19, 48, 89]}
BASS_PROGRAMS = [32, 33, 34, 35, 36, 38, 43]
_banks = {}


def bank(path):
    if path not in _banks:
        synth = Synth(path)
        _banks[path] = (synth, NoteLengths(synth))
    return _banks[path]


def bass_line(rng, seconds):
    notes, time, beat = [], rng.uniform(0, 0.4), rng.uniform(0.25, 0.7)
    while time < seconds:
        midi = int(rng.integers(28, 48))
        for _ in range(int(rng.choice([1, 2, 4]))):
            step = beat * float(rng.choice([0.5, 1, 1, 2]))
            notes.append((time, time + step * rng.uniform(0.6, 1), midi, float(np.clip(rng.normal(90, 12), 40, 125))))
            time += step
    return notes


def bank_part(rng, paths, programs, notes, detune):
    synth, lengths = bank(str(rng.choice(paths)))
    program = int(rng.choice(programs))
    sound = synth.render(notes, program, SECONDS, detune_cents=detune)
    labels, following = [], {}
    for note in reversed(notes):
        labels.append(lengths.label(program, note, following.get(note[2], 1e9)))
        following[note[2]] = note[0]
    return sound, [label for label in labels if label]


def drum_part(rng, paths):
    synth, _ = bank(str(rng.choice(paths)))
    beat = rng.uniform(0.3, 0.7)
    notes = []
    for i in range(int(2 * SECONDS / beat)):
        time = i * beat / 2
        notes.append((time, time + 0.1, 42 if rng.random() < 0.9 else 46, rng.uniform(40, 100)))
        if i % 4 == 0 or rng.random() < 0.1:
            notes.append((time, time + 0.1, 36, rng.uniform(70, 120)))
        if i % 4 == 2:
            notes.append((time, time + 0.1, 38, rng.uniform(70, 120)))
        if rng.random() < 0.03:
            notes.append((time, time + 0.1, int(rng.choice([45, 47, 49, 51])), rng.uniform(70, 120)))
    return synth.render([n for n in notes if n[0] < SECONDS - 0.2], int(rng.choice([0, 8, 16, 24, 32, 40])), SECONDS, drums=True)


def damage(rng, sound, gritty):
    """What amplifiers, rooms, microphones and recorders do."""
    sound = sound / (np.abs(sound).max() + 1e-9)
    if rng.random() < (0.7 if gritty else 0.12):
        drive = 10 ** rng.uniform(0.1, 1.3 if gritty else 0.6)
        sound = np.tanh(drive * sound) / np.tanh(drive)
    if rng.random() < 0.55:
        seconds = rng.uniform(0.2, 1.8)
        n = int(seconds * SAMPLE_RATE_HZ)
        tail = rng.normal(0, 1, n) * np.exp(-6.9 * np.arange(n) / n)
        tail = lfilter([1], [1, -rng.uniform(0, 0.7)], tail)
        tail[: int(rng.uniform(0, 0.02) * SAMPLE_RATE_HZ)] = 0
        tail /= np.sqrt((tail ** 2).sum())
        sound = sound + rng.uniform(0.05, 0.45) * fftconvolve(sound, tail)[: len(sound)]
    tilt = rng.uniform(-0.5, 0.5)
    sound = lfilter([1, tilt], [1], sound)
    if rng.random() < 0.3:
        sound = lfilter([1, -1], [1, -rng.uniform(0.95, 0.99)], sound)
    noise = rng.normal(0, 1, len(sound))
    if rng.random() < 0.5:
        noise = lfilter([1], [1, -0.97], noise)
    level = np.sqrt((sound ** 2).mean() / (noise ** 2).mean()) * 10 ** (-rng.uniform(22, 62) / 20)
    return (sound + level * noise).astype(np.float32)


def clip(seed, check):
    rng = np.random.default_rng(seed)
    paths, programs = (CHECK_BANKS, CHECK_PROGRAMS) if check else (BANKS, PROGRAMS)
    count = 1 if rng.random() < 0.62 else int(rng.choice([2, 2, 3]))
    detune = float(rng.uniform(-50, 50))
    total, labels, gritty = np.zeros(SECONDS * SAMPLE_RATE_HZ, np.float32), [], False
    for part in range(count):
        kind = str(rng.choice(["guitar", "keys", "held"], p=[0.42, 0.42, 0.16]))
        own = detune + rng.normal(0, 4)
        if part > 0 and rng.random() < 0.35:
            notes = [n for n in bass_line(rng, SECONDS) if n[0] < SECONDS - 0.4]
            sound, part_labels = bank_part(rng, paths, BASS_PROGRAMS, notes, own)
        else:
            notes = compose(rng, kind, SECONDS)
            if not check and rng.random() < 0.33:
                sound, part_labels = procedural.play(rng, kind, notes, SECONDS, own)
            else:
                sound, part_labels = bank_part(rng, paths, programs[kind], notes, own)
        if kind == "guitar" and rng.random() < 0.15:
            gritty = True
        level = np.sqrt((sound ** 2).mean()) + 1e-6
        total += sound / level * 10 ** (rng.uniform(-9, 0) / 20 if part else 0)
        labels += part_labels
    if rng.random() < 0.12:
        drums = drum_part(rng, paths)
        total += drums / (np.sqrt((drums ** 2).mean()) + 1e-6) * 10 ** (rng.uniform(-14, -3) / 20)
    sound = damage(rng, total, gritty)
    return stored_clip(sound, detune + rng.normal(0, 5), labels, count)


def clip_of_piano(seed):
    rng = np.random.default_rng(seed)
    detune = float(rng.uniform(-50, 50))
    notes = compose(rng, "keys", SECONDS)
    if rng.random() < 0.65:
        sound, labels = procedural.play(rng, "piano", notes, SECONDS, detune)
    else:
        sound, labels = bank_part(rng, BANKS, [0, 0, 1, 2, 3], notes, detune)
    return stored_clip(damage(rng, sound, False), detune + rng.normal(0, 5), labels, 1)


def stored_clip(sound, tuning, labels, parts):
    maps = FrontEnd(tuning).maps(sound)[:FRAMES]
    stored = np.clip(np.round((maps - FLOOR_DB) / STORED_STEP_DB), 0, 255).astype(np.uint8)
    table = np.array([(s, e, m - LOWEST_KEY, v) for s, e, m, v in sorted(labels) if 0 <= m - LOWEST_KEY < KEYS], np.float32)
    return stored, table.reshape(-1, 4), parts


def clip_without_notes(seed):
    """Drums alone, noise, clicks, hum that comes and goes: nothing in it may be read as a note."""
    rng = np.random.default_rng(seed)
    kind = str(rng.choice(["drums", "noise", "clicks"], p=[0.6, 0.25, 0.15]))
    size = SECONDS * SAMPLE_RATE_HZ
    if kind == "drums":
        sound = drum_part(rng, BANKS)
    elif kind == "noise":
        swell = np.interp(np.arange(size), np.linspace(0, size, 40), rng.uniform(0, 1, 40) ** 2)
        sound = lfilter([1], [1, -rng.uniform(0, 0.98)], rng.normal(0, 1, size)) * swell
    else:
        sound = (rng.random(size) < 3e-4) * rng.normal(0, 1, size)
        sound = lfilter([1], [1, -0.7], sound)
    sound = damage(rng, sound, False)
    return stored_clip(sound, float(rng.uniform(-50, 50)), [], 0)


def _write(job):
    seed, options = job
    path = os.path.join(options.out, f"{seed}.npz")
    if not os.path.exists(path):
        if options.without_notes:
            maps, notes, parts = clip_without_notes(seed)
        elif options.pianos:
            maps, notes, parts = clip_of_piano(seed)
        else:
            maps, notes, parts = clip(seed, options.check)
        np.savez(path + ".part.npz", maps=maps, notes=notes, parts=parts)
        os.replace(path + ".part.npz", path)
    return seed


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("--out", required=True)
    parser.add_argument("--clips", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--processes", type=int, default=2)
    parser.add_argument("--check", action="store_true")
    parser.add_argument("--without-notes", action="store_true")
    parser.add_argument("--pianos", action="store_true")
    options = parser.parse_args()
    os.makedirs(options.out, exist_ok=True)
    jobs = [(options.seed * 1_000_000 + i, options) for i in range(options.clips)]
    with multiprocessing.get_context("spawn").Pool(options.processes) as pool:
        for done, _ in enumerate(pool.imap_unordered(_write, jobs, chunksize=4), 1):
            if done % 50 == 0:
                print(f"{done} of {len(jobs)} clips", flush=True)


if __name__ == "__main__":
    main()
