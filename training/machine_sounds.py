"""Drums as machines make them that never meant to sound like any: frequency modulation, folded waves, coarse noise, gates, few bits."""

import numpy as np
from scipy.signal import butter, sosfilt

from .synth import SAMPLE_RATE_HZ

NYQUIST_HZ = 10_900
FILTER_ORDER = 2


def machine_shot(rng, kind, seconds):
    """A drum of a machine, different every time; its loudest sample is 1."""
    n = np.arange(int(seconds * SAMPLE_RATE_HZ)) / SAMPLE_RATE_HZ
    u = rng.uniform

    def log_u(low, high):
        return float(np.exp(u(np.log(low), np.log(high))))

    def falling(fall):
        """An envelope that is e times lower after `fall`, or straight down, or held and then cut."""
        which = rng.random()
        if which < 0.6:
            return np.exp(-n / fall)
        if which < 0.8:
            return np.maximum(0, 1 - n / (2.5 * fall))
        return np.exp(-n / (3 * fall)) * (n < 1.5 * fall)

    def wave(hz, octaves=0.0, bend_seconds=0.03):
        """A tone that comes down by so many octaves: plain, modulated in frequency (Chowning 1973), or folded towards a square."""
        phase = 2 * np.pi * np.cumsum(hz * 2 ** (octaves * np.exp(-n / bend_seconds))) / SAMPLE_RATE_HZ
        which = rng.random()
        if which < 0.35:
            return np.sin(phase)
        if which < 0.7:
            return np.sin(phase + log_u(0.2, 5) * np.exp(-n / log_u(0.01, 0.5)) * np.sin(phase * log_u(0.3, 7)))
        return np.tanh(log_u(0.7, 12) * np.sin(phase))

    def grit():
        """Noise that is white, held for some samples, or sparse; or tones that modulate each other until they are noise."""
        which = rng.random()
        if which < 0.4:
            return rng.normal(0, 1, len(n))
        if which < 0.6:
            return held(rng.normal(0, 1, len(n)), log_u(2500, 11000))
        if which < 0.75:
            return rng.normal(0, 1, len(n)) * (rng.random(len(n)) < u(0.05, 0.5)) * 2
        phase = 2 * np.pi * log_u(500, 5000) * n
        return np.sin(phase + log_u(5, 60) * np.sin(phase * log_u(0.3, 5) + log_u(1, 10) * np.sin(phase * log_u(0.2, 3))))

    def band(sound, low, high):
        return sosfilt(butter(FILTER_ORDER, [low, min(high, NYQUIST_HZ)], "band", fs=SAMPLE_RATE_HZ, output="sos"), sound)

    def metal():
        """Squares, or tones that modulate each other, of no common period."""
        pairs = []
        for hz in log_u(250, 1600) * np.exp(u(0, 1.6, int(rng.integers(2, 7)))):
            phase = 2 * np.pi * hz * n + u(0, 6)
            pairs.append(np.sign(np.sin(phase)) if rng.random() < 0.5 else np.sin(phase + log_u(1, 9) * np.sin(phase * u(1.1, 4.9))))
        return sum(pairs) if rng.random() < 0.6 else pairs[0] * pairs[-1]

    if kind == "kick":
        sound = (wave(log_u(32, 110), log_u(0.2, 5), log_u(0.004, 0.12)) * falling(log_u(0.05, 0.6))
                 + u(0, 1) ** 2 * band(grit(), log_u(300, 3000), log_u(4000, 10000)) * falling(log_u(0.001, 0.015)))
    elif kind == "snare":
        rattle = band(grit(), log_u(250, 3000), log_u(4500, 10800))
        starts = (0, u(0.007, 0.014), u(0.016, 0.03)) if rng.random() < 0.2 else (0,)
        clap = sum((n >= start) * np.exp(-np.maximum(0, n - start) / log_u(0.004, 0.06)) for start in starts)
        sound = (u(0, 1.2) * wave(log_u(110, 480), u(0, 1.5), log_u(0.005, 0.05)) * falling(log_u(0.02, 0.2))
                 + u(0.5, 1) * rattle * (clap if len(starts) > 1 else falling(log_u(0.02, 0.3))))
    elif kind in ("closed-hat", "open-hat"):
        source = metal() if rng.random() < 0.5 else grit()
        sound = band(source, log_u(1500, 8000), 10800) * falling(log_u(0.006, 0.07) if kind == "closed-hat" else log_u(0.13, 0.8))
    elif kind == "cymbal":
        sound = band(metal() + u(0, 1.5) * grit(), log_u(700, 5000), 10800) * np.exp(-n / log_u(0.25, 1.8))
    elif kind == "tom":
        sound = (wave(log_u(60, 330), log_u(0.05, 2), log_u(0.01, 0.25)) * falling(log_u(0.07, 0.5))
                 + u(0, 0.6) ** 2 * band(grit(), log_u(300, 2000), 9000) * falling(log_u(0.003, 0.04)))
    elif kind == "hand-open":
        sound = wave(log_u(140, 560), u(0, 0.4), 0.02) * falling(log_u(0.04, 0.2)) + u(0, 0.3) * grit() * np.exp(-n / 0.004)
    elif kind == "hand-slap":
        sound = u(0.2, 1) * wave(log_u(250, 900), u(0, 0.5), 0.01) * falling(log_u(0.008, 0.035)) + band(grit(), log_u(700, 2000), log_u(3500, 9000)) * falling(log_u(0.006, 0.03))
    else:
        rise = log_u(0.006, 0.05)
        sound = band(grit(), log_u(2000, 6000), 10800) * np.minimum(1, n / rise) * np.exp(-np.maximum(0, n - rise) / log_u(0.012, 0.07))
    return coarse(rng, sound / (np.abs(sound).max() + 1e-9))


def coarse(rng, sound):
    """As memory was dear: now and then at a low rate, of few bits, or both."""
    if rng.random() < 0.25:
        sound = held(sound, np.exp(rng.uniform(np.log(5000), np.log(14000))))
    if rng.random() < 0.25:
        steps = 2.0 ** rng.integers(3, 8)
        sound = np.round(sound * steps) / steps
    return (sound / (np.abs(sound).max() + 1e-9)).astype(np.float32)


def held(sound, rate_hz):
    """Each of fewer samples until the next."""
    at = np.arange(len(sound))
    every = SAMPLE_RATE_HZ / rate_hz
    return sound[(np.floor(at / every) * every).astype(int)]
