"""
Drum clips: single hits of many kits and computed ones, re-pitched, filtered and laid out as players play them.

python3 -m training.drums --out FILE.npz --clips 400 [--seed 1] [--check] writes mel frames and labels of all clips.
"""

import argparse
import multiprocessing

import numpy as np
from scipy.signal import butter, fftconvolve, lfilter

from .generate import BANKS, PROGRAMS, bank_part, damage
from .compose import compose
from .synth import SAMPLE_RATE_HZ, Synth

KINDS = ("kick", "snare", "closed-hat", "open-hat", "tom", "cymbal", "hand-open", "hand-slap", "shaker")
KEYS_OF = {
    "kick": (35, 36), "snare": (37, 38, 39, 40), "closed-hat": (42, 44), "open-hat": (46,),
    "tom": (41, 43, 45, 47, 48, 50), "cymbal": (49, 51, 52, 53, 55, 57, 59), "hand-open": (60, 61, 63, 64),
    "hand-slap": (62,), "shaker": (54, 69, 70, 82)}
PROGRAMS_OF_KITS = (0, 8, 16, 24, 25, 32, 40, 48)
CHECK_BANKS = ["/usr/share/sounds/sf2/TimGM6mb.sf2"]
CHECK_PROGRAMS = (0,)
SECONDS = 20
ONE_SHOT_SECONDS = 1.6
# Cymbals ring on; where they stop all at once, what is left of a ring is never heard without a stroke.
RINGING_SECONDS = 4.5
RINGING = ("open-hat", "cymbal")
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
GAINS_DB = {"closed-hat": (-15, 0), "open-hat": (-13, 1), "cymbal": (-16, 1), "shaker": (-14, 1)}
OTHER_GAINS_DB = (-7, 2)
_shots = {}


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


def seconds_of(kind):
    return RINGING_SECONDS if kind in RINGING else ONE_SHOT_SECONDS


def shots_of(path, program):
    key = (path, program)
    if key not in _shots:
        synth = Synth(path)
        shots = {}
        for kind, keys in KEYS_OF.items():
            for midi in keys:
                for velocity in (50, 90, 120):
                    sound = synth.render([(0, 4.0, midi, velocity)], program, seconds_of(kind), drums=True)
                    top = np.abs(sound).max()
                    if top > 1e-3:
                        shots.setdefault((kind, midi), []).append(sound / top)
        _shots[key] = shots
    return _shots[key]


def computed_shot(rng, kind):
    """A drum from sines and noise, different every time."""
    n = np.arange(int(seconds_of(kind) * SAMPLE_RATE_HZ)) / SAMPLE_RATE_HZ
    noise = rng.normal(0, 1, len(n))

    def tone(hz, fall, bend=0.0, bend_seconds=0.03):
        return np.sin(2 * np.pi * (hz * n + bend * bend_seconds * (1 - np.exp(-n / bend_seconds)))) * np.exp(-n / fall)

    def band(low, high):
        b, a = butter(2, [low, min(high, 10900)], "band", fs=SAMPLE_RATE_HZ)
        return lfilter(b, a, noise)

    u = rng.uniform
    if kind == "kick":
        sound = tone(u(42, 70), u(0.06, 0.3), u(60, 250), u(0.01, 0.04)) + u(0, 0.3) * noise * np.exp(-n / 0.003)
    elif kind == "snare":
        if rng.random() < 0.3:  # hands clapping
            sound = sum(band(700, 4000) * (n >= d) * np.exp(-np.maximum(0, n - d) / u(0.004, 0.05))
                        for d in (0, u(0.008, 0.012), u(0.018, 0.026)))
        else:
            sound = u(0.2, 1) * tone(u(150, 250), u(0.03, 0.12), 40) + band(u(600, 2000), 10000) * np.exp(-n / u(0.04, 0.16))
    elif kind in ("closed-hat", "open-hat", "cymbal"):
        low = u(2500, 7000) if kind != "cymbal" else u(800, 4500)
        fall = {"closed-hat": u(0.012, 0.05), "open-hat": u(0.15, 0.8), "cymbal": u(0.3, 2)}[kind]
        metal = sum(np.sign(np.sin(2 * np.pi * hz * n + u(0, 6))) for hz in u(300, 900, 6) * u(0.8, 1.6))
        b, a = butter(2, low, "high", fs=SAMPLE_RATE_HZ)
        sound = lfilter(b, a, noise + u(0, 0.8) * metal) * np.exp(-n / fall)
        if kind == "cymbal":
            # Many modes that beat against each other, the high ones sooner gone; a bell or a bow of the stick; the crash grows first.
            modes = sum(u(0.2, 1) * np.sin(2 * np.pi * hz * n + u(0, 6)) * np.exp(-n * hz / (u(2, 8) * 1000))
                        for hz in u(350, 1500) * np.exp(u(0, 2, 14)))
            sound = sound / np.abs(sound).max() + u(0, 1) ** 2 * modes / np.abs(modes).max()
            sound = sound * np.minimum(1, n / u(0.001, 0.03)) + u(0, 1.5) * band(3000, 10000) * np.exp(-n / 0.004)
    elif kind == "tom":
        hz = u(70, 230)
        sound = tone(hz, u(0.12, 0.4), hz * u(0.1, 0.5), 0.05) + u(0, 0.25) * tone(hz * 1.59, 0.08) + u(0, 0.15) * noise * np.exp(-n / 0.01)
    elif kind == "hand-open":
        hz = u(150, 450)
        sound = tone(hz, u(0.06, 0.22), hz * u(0, 0.12)) + u(0.1, 0.5) * tone(hz * 1.59, 0.05) + u(0.05, 0.3) * tone(hz * 2.14, 0.03) + u(0, 0.2) * noise * np.exp(-n / 0.004)
    elif kind == "hand-slap":
        hz = u(250, 700)
        sound = tone(hz, u(0.01, 0.035)) + u(0.4, 1.5) * band(u(900, 1800), u(4000, 9000)) * np.exp(-n / u(0.008, 0.03))
    else:
        rise = u(0.004, 0.04)
        sound = band(u(3000, 5500), 10500) * np.minimum(1, n / rise) * np.exp(-np.maximum(0, n - rise) / u(0.015, 0.06))
    return (sound / (np.abs(sound).max() + 1e-9)).astype(np.float32)


def altered(rng, shot):
    """Another drum of its kind: re-pitched, shortened, filtered."""
    ratio = 2 ** (rng.uniform(-3.5, 3.5) / 12)
    at = np.arange(0, len(shot) - 1, ratio)
    shot = np.interp(at, np.arange(len(shot)), shot)
    n = np.arange(len(shot)) / SAMPLE_RATE_HZ
    if rng.random() < 0.4:
        shot = shot * np.exp(-n / rng.uniform(0.08, 0.8))
    for _ in range(2):
        pole = rng.uniform(-0.45, 0.45)
        shot = lfilter([1 - abs(pole)], [1, -pole], shot)
    return (shot / (np.abs(shot).max() + 1e-9)).astype(np.float32)


def blended(rng, low, high):
    """The body of one drum with the attack and noise of another."""
    b, a = butter(1, np.exp(rng.uniform(np.log(200), np.log(4000))), "low", fs=SAMPLE_RATE_HZ)
    shot = lfilter(b, a, low) + rng.uniform(0.4, 1.6) * (high - lfilter(b, a, high))
    return shot / (np.abs(shot).max() + 1e-9)


def sounding_along(rng, kind, shot):
    """What else is heard when a drum of a kit is struck: the wires under the snare, the skin of a tom, hats that rattle."""
    n = np.arange(len(shot)) / SAMPLE_RATE_HZ
    sound = shot
    if kind in ("kick", "tom") and rng.random() < 0.5:
        b, a = butter(2, [rng.uniform(900, 2500), rng.uniform(5000, 10000)], "band", fs=SAMPLE_RATE_HZ)
        buzz = lfilter(b, a, rng.normal(0, 1, len(n))) * np.minimum(1, n / 0.008) * np.exp(-n / rng.uniform(0.04, 0.2))
        sound = sound + 10 ** (-rng.uniform(12, 34) / 20) * buzz / np.abs(buzz).max()
    if kind in ("kick", "snare") and rng.random() < 0.4:
        hz, fall = rng.uniform(70, 220), rng.uniform(0.1, 0.5)
        skin = np.sin(2 * np.pi * hz * n) * np.minimum(1, n / 0.01) * np.exp(-n / fall)
        sound = sound + 10 ** (-rng.uniform(14, 34) / 20) * skin
    if kind in ("kick", "snare", "tom") and rng.random() < 0.3:
        b, a = butter(2, rng.uniform(4000, 7000), "high", fs=SAMPLE_RATE_HZ)
        rattle = lfilter(b, a, rng.normal(0, 1, len(n))) * np.minimum(1, n / 0.004) * np.exp(-n / rng.uniform(0.02, 0.3))
        sound = sound + 10 ** (-rng.uniform(20, 40) / 20) * rattle / np.abs(rattle).max()
    return (sound / (np.abs(sound).max() + 1e-9)).astype(np.float32)


def onset_of(shot):
    """Seconds until it is first within 20 dB of its loudest in the first 60 ms."""
    level = np.abs(shot[: int(0.06 * SAMPLE_RATE_HZ)])
    return float(np.argmax(level >= 0.1 * level.max())) / SAMPLE_RATE_HZ


def pattern(rng):
    """(time, kind, loudness 0–1) as kits, hand drums, shakers and fills are played."""
    beat = 60 / rng.uniform(65, 180)
    swing = rng.uniform(0.5, 0.67) if rng.random() < 0.4 else 0.5
    style = str(rng.choice(["kit", "kit", "kit", "hands", "hands", "single", "fills", "free"]))
    jitter = rng.uniform(0.001, 0.012)
    hits = []

    def add(step, kind, loud, chance=1.0):
        if rng.random() < chance:
            whole, half = divmod(step, 1)
            time = (whole + (half if half != 0.5 else swing)) * beat + 0.2
            hits.append((time + rng.normal(0, jitter), kind, float(np.clip(loud * rng.uniform(0.6, 1.15), SOFTEST, 1))))

    beats = int((SECONDS - 1) / beat)
    metal = str(rng.choice(["closed-hat", "closed-hat", "cymbal", "shaker"]))
    grid = float(rng.choice([0.25, 0.5, 0.5, 1]))
    kicks = [(0, 1), (2, 0.8)] + [(float(rng.integers(16)) / 4, rng.uniform(0.2, 0.9)) for _ in range(3)]
    drums = {"hands": ["hand-open", "hand-open", "hand-slap"] + ["shaker"] * int(rng.integers(2)), "fills": ["tom", "snare", "kick", "cymbal"],
             "single": [str(rng.choice(KINDS))], "free": list(KINDS)}.get(style, [])
    accent = rng.uniform(0.3, 0.9)

    def play_cell(kinds):
        """Four beats that come again and again."""
        cell = [(step, str(rng.choice(kinds)), rng.uniform(0.25, 1)) for step in np.arange(0, 4, 0.25) if rng.random() < rng.uniform(0.3, 0.9)]
        for bar in range(0, beats, 4):
            for step, kind, loud in cell:
                add(bar + step, kind, loud, 0.93)

    if style == "kit":
        for bar in range(0, beats, 4):
            fill = rng.random() < 0.15
            for step, chance in kicks:
                add(bar + step, "kick", 0.9, chance)
            for step in (1, 3):
                add(bar + step, "snare", 0.9, 0.9)
            for step in np.arange(0, 4, 0.25):
                add(bar + step, "snare", 0.3, 0.05)
            for step in np.arange(0, 4, grid):
                if fill and step >= 2:
                    add(bar + step, "tom", 0.8, 0.8)
                else:
                    add(bar + step, "open-hat" if rng.random() < 0.07 else metal, 0.8 if step % 1 == 0 else accent, 0.95)
            add(bar, "cymbal", 0.9, 0.25)
    elif style == "free":
        time = 0.2
        while time < SECONDS - 0.6:
            hits.append((time, str(rng.choice(drums)), rng.uniform(SOFTEST, 1)))
            if rng.random() < 0.25:
                hits.append((time + rng.normal(0, 0.004), str(rng.choice(drums)), rng.uniform(SOFTEST, 1)))
            time += rng.exponential(0.25) + 0.06
    else:
        play_cell(drums)
    # A second player: somebody shakes or taps through, somebody drums by hand over a kit. Strokes fall together.
    if rng.random() < {"kit": 0.2, "hands": 0.7, "single": 0.4}.get(style, 0):
        steady, through = str(rng.choice(["shaker", "shaker", "shaker", "closed-hat"])), float(rng.choice([0.25, 0.5, 0.5, 1]))
        for step in np.arange(0, beats, through):
            add(step, steady, 0.8 if step % 1 == 0 else accent, 0.95)
    if style == "kit" and rng.random() < 0.15:
        play_cell(["hand-open", "hand-open", "hand-slap"])
    return sorted(h for h in hits if 0.02 < h[0] < SECONDS - 0.4)


def drum(rng, kind, kits, kit, check):
    """A drum of a kit in layers from soft to loud: a recorded one of this kit or of another, a computed one, or parts of two."""
    def recorded(of):
        shots = shots_of(*of)
        variants = [k for k in shots if k[0] == kind]
        return shots[variants[rng.integers(len(variants))]] if variants else None

    if check:
        return recorded(kit)
    other = kits[rng.integers(len(kits))]
    layers = recorded(kit if rng.random() < 0.6 else other)
    if layers is None or rng.random() < 0.2:
        layers = [computed_shot(rng, kind)]
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


def clip(seed, check):
    rng = np.random.default_rng(seed)
    kits = [(path, program) for path in (CHECK_BANKS if check else BANKS) for program in (CHECK_PROGRAMS if check else PROGRAMS_OF_KITS)]
    kit = kits[rng.integers(len(kits))]
    chosen, gains = {}, {}
    out = np.zeros(SECONDS * SAMPLE_RATE_HZ + 8 * SAMPLE_RATE_HZ, np.float32)
    labels, ringing = [], {}
    for time, kind, loud in pattern(rng):
        if kind not in gains:
            gains[kind] = 10 ** (rng.uniform(*GAINS_DB.get(kind, OTHER_GAINS_DB)) / 20)
        if kind not in chosen or (kind in ("tom", "hand-open", "cymbal") and rng.random() < 0.3):
            layers = drum(rng, kind, kits, kit, check)
            if not layers:
                continue
            chosen[kind] = layers
        layers = chosen[kind]
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
    frames = mel_frames(damage(rng, sound, rng.random() < 0.2))
    stored = np.clip(np.round((frames - FLOOR_DB) / STEP_DB), 0, 255).astype(np.uint8)
    return stored, np.array(labels, np.float32).reshape(-1, 3)


def _job(job):
    return clip(*job)


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("--out", required=True)
    parser.add_argument("--clips", type=int, default=400)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--processes", type=int, default=2)
    parser.add_argument("--check", action="store_true")
    options = parser.parse_args()
    jobs = [(options.seed * 1_000_000 + i, options.check) for i in range(options.clips)]
    with multiprocessing.get_context("spawn").Pool(options.processes) as pool:
        made = pool.map(_job, jobs, chunksize=4)
    np.savez(options.out, frames=np.stack([m[0] for m in made]), hits=np.concatenate(
        [np.column_stack([np.full(len(m[1]), i), m[1]]) for i, m in enumerate(made)]).astype(np.float32))


if __name__ == "__main__":
    main()
