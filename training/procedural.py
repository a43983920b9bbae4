"""Instruments computed here: plucked, struck, frequency-modulated and held tones, different in every clip."""

import numpy as np

from .synth import SAMPLE_RATE_HZ

LONGEST_SECONDS = 6.0


class Tone:
    """One instrument: how its partials lie, start, decay and stop. `label` says what of a note is heard."""

    def __init__(self, rng, kind):
        self.kind = kind
        self.rng = rng
        plucked, struck = kind == "pluck", kind in ("struck", "piano")
        self.place = rng.uniform(0.06, 0.4)
        self.slope = rng.uniform(0.3, 1.8) if plucked else rng.uniform(0.8, 2.2)
        self.inharmonicity = 10 ** rng.uniform(-5, -3.4) if plucked or struck else 0.0
        self.decay = rng.uniform(0.8, 5) if plucked or struck else 0.0
        self.decay_by_partial = rng.uniform(0.02, 0.25)
        self.attack = rng.uniform(0.001, 0.004) if plucked or struck else rng.uniform(0.005, 0.08)
        self.release = rng.uniform(0.02, 0.25)
        self.noise = rng.uniform(0, 0.15)
        self.odd = rng.uniform(0.1, 1) if rng.random() < 0.4 else 1.0
        self.drawbars = rng.uniform(0, 1, 9) * (rng.random(9) < 0.6)
        self.drawbars[0] = 1
        self.vibrato_cents = rng.uniform(3, 25) if kind == "held" and rng.random() < 0.5 else 0.0
        self.vibrato_hz = rng.uniform(4.5, 6.8)
        self.fm_ratio = float(rng.choice([1, 1, 2, 3, 14]))
        self.fm_index = rng.uniform(0.5, 4)
        centres = 2 ** rng.uniform(np.log2(120), np.log2(4000), 5)
        self.body = [(c, c * rng.uniform(0.1, 0.5), rng.uniform(-9, 9)) for c in centres]
        self.roll = rng.uniform(1500, 9000)

        self.strings_cents = rng.uniform(0.1, 1.6)
        self.after_sound = rng.uniform(0.05, 0.4)
        self.after_times = rng.uniform(2.5, 6)
        self.knock = rng.uniform(0, 0.25)

    def body_gain(self, hz):
        decibels = sum(g / (1 + ((hz - c) / w) ** 2) for c, w, g in self.body)
        return 10 ** (decibels / 20) / (1 + (hz / self.roll) ** 2)

    def sound(self, midi, seconds, velocity):
        """Samples of one note, its release included."""
        rate = SAMPLE_RATE_HZ
        hz = 440 * 2 ** ((midi - 69) / 12)
        decay = self.decay * (60 / max(30, midi)) ** 1.5
        length = min(LONGEST_SECONDS, seconds) + self.release
        if decay and self.kind != "piano":
            length = min(length, decay * 1.6 + 0.1)
        n = np.arange(int(length * rate)) / rate
        bright = velocity / 127
        if self.kind == "piano":
            out = self.piano_strings(midi, hz, n, bright)
        elif self.kind == "fm":
            index = self.fm_index * (0.3 + bright) * np.exp(-n / (0.4 * max(decay, 0.3)))
            out = np.sin(2 * np.pi * hz * n + index * np.sin(2 * np.pi * hz * self.fm_ratio * n))
            out *= np.exp(-n * 2.5 / max(decay, 0.5))
        else:
            partials = np.arange(1, int(min(40, 9500 / hz)) + 1)
            if self.kind == "organ":
                ratios, gains = np.array([0.5, 1.5, 1, 2, 3, 4, 5, 6, 8]), self.drawbars
                order = [2, 0, 1, 3, 4, 5, 6, 7, 8]
                ratios = ratios[order]
                keep = ratios * hz < 9500
                ratios, gains = ratios[keep], gains[keep]
            else:
                ratios = partials * np.sqrt(1 + self.inharmonicity * partials ** 2)
                gains = partials ** -(self.slope * (1.4 - 0.6 * bright))
                if self.kind == "pluck":
                    gains = gains * np.abs(np.sin(np.pi * partials * self.place))
                gains = np.where(partials % 2 == 0, self.odd, 1.0) * gains
            gains = gains * np.array([self.body_gain(r * hz) for r in ratios])
            phase = 2 * np.pi * hz * n
            if self.vibrato_cents:
                swing = self.vibrato_cents / 1200 * np.log(2) * np.minimum(1, n / 0.4)
                phase = phase + 2 * np.pi * hz * np.cumsum(swing * np.sin(2 * np.pi * self.vibrato_hz * n)) / rate
            out = np.zeros_like(n)
            phase = phase.astype(np.float32)
            for ratio, gain in zip(ratios, gains):
                if gain < 1e-4 * gains.max():
                    continue
                partial = np.sin(np.float32(ratio) * phase + np.float32(self.rng.uniform(0, 6.28)))
                if decay:
                    rate_of = 1 / decay * (1 + self.decay_by_partial * (ratio - 1)) * 3
                    partial *= np.exp(-n * rate_of).astype(np.float32)
                out += gain * partial
        out = out / (np.abs(out).max() + 1e-9)
        if self.noise:
            burst = self.rng.normal(0, 1, len(n)) * np.exp(-n / 0.006)
            out = out + self.noise * bright * burst
        out *= np.minimum(1, n / self.attack)
        if seconds < length:
            out *= np.where(n < seconds, 1, np.exp(-(n - seconds) / (self.release / 4)))
        return (out * (velocity / 127) ** 1.5).astype(np.float32)

    def piano_strings(self, midi, hz, n, bright):
        """
        Two or three strings a note, a little apart, so that partials beat and decay in two stages (Weinreich 1977,
        "Coupled piano strings"); stiffer towards the treble; a hammer at a ninth to a seventh of the string that is
        harder when it strikes harder; the knock of the key bed.
        """
        stiffness = self.inharmonicity * 2 ** ((midi - 60) / 9) + 2e-5 * 2 ** ((36 - midi) / 8)
        count = int(min(60, 9500 / hz))
        partials = np.arange(1, count + 1)
        ratios = partials * np.sqrt(1 + stiffness * partials ** 2)
        ratios = ratios[ratios * hz < 9500]
        place = 1 / (7 + 2 * self.place)
        decay = self.decay * 1.6 * 2 ** ((60 - midi) / 14)
        cents = self.strings_cents * np.array([0, 1, -0.6][: 1 if midi < 34 else 2 if midi < 46 else 3])
        out = np.zeros_like(n)
        for number, ratio in enumerate(ratios, 1):
            strength = abs(np.sin(np.pi * number * place)) * number ** -(self.slope * (1.6 - bright))
            strength *= self.body_gain(ratio * hz) * 10 ** (self.rng.normal(0, 3.5) / 20)
            quick = np.exp(-n * 6.9 / decay * (1 + self.decay_by_partial * (number - 1)))
            slow = np.exp(-n * 6.9 / (decay * self.after_times) * (1 + self.decay_by_partial * (number - 1)))
            fade = (1 - self.after_sound) * quick + self.after_sound * slow
            for off in cents:
                phase = 2 * np.pi * ratio * hz * 2 ** (off / 1200) * n + self.rng.uniform(0, 0.8)
                out += strength / len(cents) * fade * np.sin(phase)
        out /= np.abs(out).max() + 1e-9
        thump = np.cumsum(self.rng.normal(0, 1, len(n)) * np.exp(-n / 0.02))
        thump -= np.convolve(thump, np.ones(200) / 200, "same")
        return out + self.knock * bright * thump / (np.abs(thump).max() + 1e-9)

    def label(self, note, next_start, sounded):
        """What is heard: from −15 dB of the note's peak until it fell by 36 dB, or by 12 after it was let go."""
        start, end, midi, velocity = note
        step = int(0.002 * SAMPLE_RATE_HZ)
        energy = np.add.reduceat(sounded ** 2, np.arange(0, len(sounded), step)) + 1e-14
        level = 10 * np.log10(np.convolve(energy, np.ones(5) / 5, "same"))
        top = level.max()
        attack = int(np.argmax(level > top - 15)) * 0.002
        held = np.nonzero(level > top - 36)[0][-1] * 0.002
        off = min(len(level) - 1, int((end - start) / 0.002))
        after = np.nonzero(level[off:] > level[max(0, off - 10):off + 1].max() - 12)[0]
        stops = min(start + held, end + (after[-1] * 0.002 if len(after) else 0), next_start)
        return (start + attack, max(start + attack + 0.03, stops), midi, velocity)


KINDS = {"guitar": ["pluck"], "keys": ["piano", "struck", "fm", "pluck"], "held": ["organ", "held"]}


def play(rng, kind, notes, seconds, detune_cents):
    """Samples of a part and its labels; `kind` is one of KINDS or "piano"."""
    tone = Tone(rng, str(rng.choice(KINDS.get(kind, [kind]))))
    out = np.zeros(int(seconds * SAMPLE_RATE_HZ) + SAMPLE_RATE_HZ, np.float32)
    labels = []
    following = {}
    nexts = []
    for start, _, midi, _ in reversed(notes):
        nexts.append(following.get(midi, 1e9))
        following[midi] = start
    for note, next_start in zip(notes, reversed(nexts)):
        start, end, midi, velocity = note
        sounded = tone.sound(midi + detune_cents / 100, end - start, velocity)
        at = int(start * SAMPLE_RATE_HZ)
        stop = min(len(out), at + len(sounded))
        if next_start < 1e8:
            # The same string or key: the earlier note is stopped.
            cut = int((next_start - start) * SAMPLE_RATE_HZ)
            if cut < len(sounded):
                sounded = sounded.copy()
                sounded[cut:] *= np.exp(-np.arange(len(sounded) - cut) / 200).astype(np.float32)
        out[at:stop] += sounded[: stop - at]
        labels.append(tone.label(note, next_start, sounded))
    return out[: int(seconds * SAMPLE_RATE_HZ)], labels
