"""
The front end, in step with core/src/reading/chordal/frontEnd.ts: two maps of 310 bins, three to the semitone.

Map A (pitch) has windows of 46 periods, map B (timing) of 11, both between bounds; three transforms a frame serve
all bins: 1,024 points of the signal decimated by eight, 2,048 and 1,024 points at the full rate.
"""

import numpy as np
from scipy.signal import firwin

SAMPLE_RATE_HZ = 22050
HOP = 256
BINS = 310
BINS_PER_SEMITONE = 3
LOWEST_MIDI = 21 - 1 / 3
RANGE_DB = 75
STORED_STEP_DB = 0.5
FLOOR_DB = -125
DECIMATION = 8
DECIMATION_TAPS = 97
DECIMATION_CUTOFF_HZ = 1000


def bin_hz(tuning_cents=0.0):
    midi = LOWEST_MIDI + np.arange(BINS) / BINS_PER_SEMITONE + tuning_cents / 100
    return 440 * 2 ** ((midi - 69) / 12)


def window_lengths(hz, periods, least, most):
    return np.clip(periods * SAMPLE_RATE_HZ / hz, least, most)


def kernel(size, rate, hz, length):
    """Spectrum of a centred Hann-windowed complex tone of `length` samples at the full rate; gain 1 for a sine."""
    ratio = SAMPLE_RATE_HZ / rate
    half = length / ratio / 2
    n = np.arange(size) - size // 2
    window = np.where(np.abs(n) < half, 0.5 + 0.5 * np.cos(np.pi * n / half), 0.0)
    window *= 2 / window.sum()
    return np.fft.fft(np.fft.ifftshift(window * np.exp(2j * np.pi * hz / rate * n)))


class FrontEnd:
    def __init__(self, tuning_cents=0.0):
        hz = bin_hz(tuning_cents)
        self.taps = firwin(DECIMATION_TAPS, DECIMATION_CUTOFF_HZ, fs=SAMPLE_RATE_HZ).astype(np.float32)
        lengths_a = window_lengths(hz, 46, 768, 8192)
        lengths_b = window_lengths(hz, 11, 512, 2048)
        self.groups = []
        for which, lengths in ((0, lengths_a), (1, lengths_b)):
            kinds = np.where(lengths > 2048, 0, np.where(lengths > 1024, 1, 2))
            if which == 1:
                # Windows below 1,024 still need the finer spectrum at low pitches, where bins lie close.
                kinds = np.where(lengths > 512, 1, 2)
            for kind in range(3):
                bins = np.nonzero(kinds == kind)[0]
                if len(bins) == 0:
                    continue
                size, rate = ((1024, SAMPLE_RATE_HZ / DECIMATION), (2048, SAMPLE_RATE_HZ), (1024, SAMPLE_RATE_HZ))[kind]
                matrix = np.stack([kernel(size, rate, hz[b], lengths[b])[: size // 2] for b in bins])
                matrix /= size
                matrix[np.abs(matrix) < 1e-3 * np.abs(matrix).max(axis=1, keepdims=True)] = 0
                self.groups.append((which, kind, bins, np.conj(matrix).astype(np.complex64)))

    def maps(self, samples):
        """Both maps in dB (frames × 2 × bins); frame t is centred on sample 256·t."""
        frames = len(samples) // HOP + 1
        pad = 4096
        padded = np.concatenate([np.zeros(pad, np.float32), samples, np.zeros(pad + HOP, np.float32)])
        half = len(self.taps) // 2
        low = np.convolve(padded, self.taps)[half:half + len(padded)][::DECIMATION]
        spectra = []
        for size, signal, hop, centre in ((1024, low, HOP // DECIMATION, pad // DECIMATION),
                                          (2048, padded, HOP, pad), (1024, padded, HOP, pad)):
            first = centre - size // 2
            view = np.lib.stride_tricks.sliding_window_view(signal, size)[first:first + frames * hop:hop][:frames]
            shifted = np.concatenate([view[:, size // 2:], view[:, : size // 2]], axis=1)
            spectra.append(np.fft.rfft(shifted, axis=1)[:, : size // 2].astype(np.complex64))
        out = np.zeros((frames, 2, BINS), np.float32)
        for which, kind, bins, matrix in self.groups:
            out[:, which, bins] = np.abs(spectra[kind] @ matrix.T)
        return 20 * np.log10(out + 1e-9)


def normalise(maps_db):
    """Scales to 0–1: 1 at the 98th percentile of the frame maxima of map A, 0 lies 75 dB below."""
    top = np.percentile(maps_db[:, 0].max(axis=1), 98)
    return np.clip(1 + (maps_db - top) / RANGE_DB, 0, 1)
