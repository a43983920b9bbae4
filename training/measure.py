"""How long a note of a bank really sounds: labels must say what is heard, not when a key was pressed."""

import numpy as np

from .synth import SAMPLE_RATE_HZ

ATTACK_DB = -15
DECAY_DB = -36
RELEASE_DB = -12
HELD_SECONDS = 5.0
SHORT_SECONDS = 0.5
STEP_SECONDS = 0.002
KEY_STEP = 4


def envelope_db(samples):
    """Level every 2 ms over 6 ms."""
    step = int(STEP_SECONDS * SAMPLE_RATE_HZ)
    energy = np.concatenate([[0.0], np.cumsum(samples.astype(np.float64) ** 2)])
    at = np.arange(0, len(samples) - 3 * step, step)
    return 10 * np.log10((energy[at + 3 * step] - energy[at]) / (3 * step) + 1e-12)


class NoteLengths:
    """Attack, decay and release of every fourth key of a program, measured when first asked for."""

    def __init__(self, synth):
        self.synth = synth
        self.cache = {}

    def of(self, program, midi):
        """(attack, decay, release) in seconds; decay counts from the key being pressed."""
        key = (program, int(round(midi / KEY_STEP)) * KEY_STEP)
        if key not in self.cache:
            self.cache[key] = self._measure(*key)
        return self.cache[key]

    def _measure(self, program, midi):
        held = envelope_db(self.synth.render([(0, HELD_SECONDS, midi, 90)], program, HELD_SECONDS))
        top = held.max()
        if top < -90:
            return 0.0, 0.0, 0.0
        attack = int(np.argmax(held >= top + ATTACK_DB))
        loud = np.nonzero(held >= top + DECAY_DB)[0]
        decay = loud[-1]
        short = envelope_db(self.synth.render([(0, SHORT_SECONDS, midi, 90)], program, SHORT_SECONDS + 2))
        off = int(SHORT_SECONDS / STEP_SECONDS)
        after = short[off:]
        level = short[max(0, off - 10):off].max()
        sounding = np.nonzero(after >= level + RELEASE_DB)[0]
        release = sounding[-1] if len(sounding) else 0
        decay_seconds = HELD_SECONDS if decay >= len(held) - 3 else decay * STEP_SECONDS
        return attack * STEP_SECONDS, decay_seconds, release * STEP_SECONDS

    def label(self, program, note, next_start):
        """What sounds of a played note: (start, end, midi, velocity), or None when nothing does."""
        start, end, midi, velocity = note
        attack, decay, release = self.of(program, midi)
        if decay == 0:
            return None
        stops = end + release
        if decay < HELD_SECONDS:
            stops = min(stops, start + decay)
        stops = min(stops, next_start)
        return (start + attack, max(start + attack + 0.03, stops), midi, velocity)
