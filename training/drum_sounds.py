"""
Single strokes of drums: of sound banks, of one-shot recordings, and computed; and what makes another drum of one of them. Drums of one
kind differ more from kit to kit than those of any few banks do, so everything about them is drawn by chance.
"""

import glob
import os

import numpy as np
from scipy.io import wavfile
from scipy.signal import butter, fftconvolve, lfilter, sosfilt

from .synth import SAMPLE_RATE_HZ, Synth

KINDS = ("kick", "snare", "closed-hat", "open-hat", "tom", "cymbal", "hand-open", "hand-slap", "shaker")
KEYS_OF = {
    "kick": (35, 36), "snare": (37, 38, 39, 40), "closed-hat": (42, 44), "open-hat": (46,),
    "tom": (41, 43, 45, 47, 48, 50), "cymbal": (49, 51, 52, 53, 55, 57, 59), "hand-open": (60, 61, 63, 64),
    "hand-slap": (62,), "shaker": (54, 69, 70, 82)}
# Of the cymbals, those that are ridden.
RIDES = (51, 53, 59)
ONE_SHOT_SECONDS = 1.6
# Cymbals ring on; where they stop all at once, what is left of a ring is never heard without a stroke.
RINGING_SECONDS = 4.5
RINGING = ("open-hat", "cymbal")
# How the names of one-shot recordings begin (Debian's sonic-pi-samples, CC0; kit_shots.py names its files by kind).
NAMES_OF = {
    "kick": ("bd_", "drum_bass_", "drum_heavy_kick", "elec_hollow_kick", "elec_soft_kick"),
    "snare": ("drum_snare_", "sn_", "elec_filt_snare", "elec_hi_snare", "elec_lo_snare", "elec_mid_snare", "elec_snare"),
    "closed-hat": ("drum_cymbal_closed", "drum_cymbal_pedal"),
    "open-hat": ("drum_cymbal_open",),
    "tom": ("drum_tom_", "elec_fuzz_tom"),
    "cymbal": ("drum_cymbal_hard", "drum_cymbal_soft", "drum_splash_", "elec_cymbal"),
    "hand-open": ("tabla_ghe", "tabla_na", "tabla_tas", "tabla_tun", "tabla_re"),
    "hand-slap": ("tabla_ke", "tabla_te"),
}
_shots = {}


def seconds_of(kind):
    return RINGING_SECONDS if kind in RINGING else ONE_SHOT_SECONDS


def shots_of(path, program):
    """(kind, key) → a stroke at each of some velocities, of a kit of a bank."""
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


def one_shots(folder):
    """Kind → recordings (16 bit, mono, 22,050 Hz)."""
    if folder not in _shots:
        shots = {}
        for path in sorted(glob.glob(os.path.join(folder, "*.wav"))):
            name = os.path.basename(path)
            for kind in KINDS:
                names = NAMES_OF.get(kind, ())
                if name.startswith((f"{kind} ", *names)):
                    rate, sound = wavfile.read(path)
                    if rate != SAMPLE_RATE_HZ or sound.dtype != np.int16 or sound.ndim != 1:
                        raise ValueError(f"{path} is not 16 bit, mono, {SAMPLE_RATE_HZ} Hz")
                    frames = int(seconds_of(kind) * SAMPLE_RATE_HZ)
                    sound = np.pad(sound, (0, frames))[:frames].astype(np.float32)
                    shots.setdefault(kind, []).append(sound / (np.abs(sound).max() + 1e-9))
        _shots[folder] = shots
    return _shots[folder]


def computed_shot(rng, kind):
    """A drum from sines and noise, different every time."""
    n = np.arange(int(seconds_of(kind) * SAMPLE_RATE_HZ)) / SAMPLE_RATE_HZ
    noise = rng.normal(0, 1, len(n))
    u = rng.uniform

    def log_u(low, high):
        return float(np.exp(u(np.log(low), np.log(high))))

    def tone(hz, fall, bend=0.0, bend_seconds=0.03):
        return np.sin(2 * np.pi * (hz * n + bend * bend_seconds * (1 - np.exp(-n / bend_seconds)))) * np.exp(-n / fall)

    def band(low, high):
        b, a = butter(2, [low, min(high, 10900)], "band", fs=SAMPLE_RATE_HZ)
        return lfilter(b, a, noise)

    def metal():
        """What rings in hats: noise, squares as machines have them, or many high sines, in any mixture."""
        squares = sum(np.sign(np.sin(2 * np.pi * hz * n + u(0, 6))) for hz in u(200, 900, 6) * u(0.8, 1.8))
        sines = sum(np.sin(2 * np.pi * hz * n + u(0, 6)) for hz in u(2500, 10500, 12))
        parts = [noise, squares / 2.4, sines / 2.4]
        return sum(u(0, 1) ** 2 * part for part in parts) + parts[rng.integers(3)]

    if kind == "kick":
        click = band(log_u(800, 3000), log_u(4000, 10000)) if rng.random() < 0.6 else np.sin(2 * np.pi * log_u(800, 4000) * n)
        sound = (tone(log_u(36, 110), log_u(0.04, 0.7), u(0, 1) ** 2 * 400, log_u(0.005, 0.06))
                 + u(0, 0.5) * tone(log_u(80, 240), log_u(0.01, 0.12)) + u(0, 1) ** 2 * click * np.exp(-n / log_u(0.001, 0.012)))
    elif kind == "snare":
        which = rng.random()
        if which < 0.25:  # hands clapping
            sound = sum(band(700, 4000) * (n >= d) * np.exp(-np.maximum(0, n - d) / u(0.004, 0.05))
                        for d in (0, u(0.008, 0.012), u(0.018, 0.026)))
        elif which < 0.35:  # on the rim
            sound = tone(log_u(350, 1900), log_u(0.004, 0.03)) + u(0, 1) * tone(log_u(700, 3500), log_u(0.003, 0.02)) + u(0, 0.4) * noise * np.exp(-n / 0.003)
        else:
            hz = log_u(130, 400)
            sound = (u(0, 1) * (tone(hz, log_u(0.02, 0.15), u(0, 80)) + u(0, 1) * tone(hz * u(1.4, 2.1), log_u(0.02, 0.1)))
                     + u(0.5, 1) * band(log_u(400, 3000), u(6000, 10800)) * np.exp(-n / log_u(0.03, 0.3)))
    elif kind in ("closed-hat", "open-hat"):
        fall = log_u(0.008, 0.09) if kind == "closed-hat" else log_u(0.15, 1.1)
        b, a = butter(int(rng.integers(1, 4)), log_u(1500, 7500), "high", fs=SAMPLE_RATE_HZ)
        sound = lfilter(b, a, metal()) * (np.exp(-n / fall) + u(0, 1) * np.exp(-n / (fall * u(0.1, 0.4))))
        sound = sound * np.minimum(1, n / u(0.0002, 0.004))
    elif kind == "cymbal":
        b, a = butter(2, log_u(800, 4500), "high", fs=SAMPLE_RATE_HZ)
        sound = lfilter(b, a, metal()) * np.exp(-n / log_u(0.3, 2))
        # Many modes that beat against each other, the high ones sooner gone; a bell or a bow of the stick; the crash grows first.
        modes = sum(u(0.2, 1) * np.sin(2 * np.pi * hz * n + u(0, 6)) * np.exp(-n * hz / (u(2, 8) * 1000))
                    for hz in u(350, 1500) * np.exp(u(0, 2, 14)))
        sound = sound / np.abs(sound).max() + u(0, 1) ** 2 * modes / np.abs(modes).max()
        sound = sound * np.minimum(1, n / u(0.001, 0.03)) + u(0, 1.5) * band(3000, 10000) * np.exp(-n / 0.004)
    elif kind == "tom":
        hz = log_u(60, 260)
        sound = (tone(hz, log_u(0.08, 0.6), hz * u(0, 0.6), log_u(0.01, 0.1)) + u(0, 0.35) * tone(hz * u(1.4, 1.7), log_u(0.04, 0.2))
                 + u(0, 0.25) * tone(hz * u(2, 3.2), 0.05) + u(0, 1) ** 2 * 0.4 * noise * np.exp(-n / log_u(0.003, 0.03)))
    elif kind == "hand-open":
        hz = log_u(150, 450)
        sound = tone(hz, u(0.06, 0.22), hz * u(0, 0.12)) + u(0.1, 0.5) * tone(hz * 1.59, 0.05) + u(0.05, 0.3) * tone(hz * 2.14, 0.03) + u(0, 0.2) * noise * np.exp(-n / 0.004)
    elif kind == "hand-slap":
        hz = u(250, 700)
        sound = tone(hz, u(0.01, 0.035)) + u(0.4, 1.5) * band(u(900, 1800), u(4000, 9000)) * np.exp(-n / u(0.008, 0.03))
    else:
        # Grains gather before they sound together, which a stick on metal does not have.
        rise = log_u(0.008, 0.045)
        sound = band(u(2500, 5500), 10500) * np.minimum(1, n / rise) * np.exp(-np.maximum(0, n - rise) / u(0.015, 0.06))
    return normalized(sound)


def normalized(sound):
    return (sound / (np.abs(sound).max() + 1e-9)).astype(np.float32)


def altered(rng, shot):
    """Another drum of its kind: re-pitched, shortened, struck harder or softer, through another microphone and desk."""
    ratio = 2 ** (rng.uniform(-3.5, 3.5) * (2 if rng.random() < 0.25 else 1) / 12)
    at = np.arange(0, len(shot) - 1, ratio)
    shot = np.interp(at, np.arange(len(shot)), shot)
    n = np.arange(len(shot)) / SAMPLE_RATE_HZ
    if rng.random() < 0.4:
        shot = shot * np.exp(-n / rng.uniform(0.08, 0.8))
    if rng.random() < 0.3:
        shot = shot * (1 + rng.uniform(-0.7, 2.5) * np.exp(-n / np.exp(rng.uniform(np.log(0.003), np.log(0.03)))))
    for _ in range(2):
        pole = rng.uniform(-0.45, 0.45)
        shot = lfilter([1 - abs(pole)], [1, -pole], shot)
    if rng.random() < 0.5:
        for _ in range(rng.integers(1, 4)):
            shot = sosfilt(peak(np.exp(rng.uniform(np.log(80), np.log(9500))), rng.uniform(-12, 10), rng.uniform(0.5, 3)), shot)
    if rng.random() < 0.25:
        drive = 10 ** rng.uniform(0, 1)
        shot = np.tanh(drive * normalized(shot))
    if rng.random() < 0.2:
        length = int(np.exp(rng.uniform(np.log(0.03), np.log(0.35))) * SAMPLE_RATE_HZ)
        room = rng.normal(0, 1, length) * np.exp(-5 * np.arange(length) / length)
        shot = shot + 10 ** (-rng.uniform(4, 20) / 20) * fftconvolve(shot, room / np.sqrt((room ** 2).sum()))[: len(shot)]
    return normalized(shot)


def peak(hz, gain_db, q):
    """Second-order sections that lift or lower around a frequency (Bristow-Johnson, "Cookbook formulae for audio EQ biquad filter coefficients")."""
    amplitude, turn = 10 ** (gain_db / 40), 2 * np.pi * hz / SAMPLE_RATE_HZ
    alpha = np.sin(turn) / (2 * q)
    section = np.array([[1 + alpha * amplitude, -2 * np.cos(turn), 1 - alpha * amplitude, 1 + alpha / amplitude, -2 * np.cos(turn), 1 - alpha / amplitude]])
    return section / section[0, 3]


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
