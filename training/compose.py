"""
Phrases as players of guitars and keys play them: strums, picking, blocks, pedal, two hands, pads, lines.

Every function returns notes (start, end, midi, velocity) in seconds; `rng` is a numpy Generator.
"""

import numpy as np

QUALITIES = [(0, 4, 7), (0, 3, 7), (0, 4, 7, 11), (0, 3, 7, 10), (0, 4, 7, 10), (0, 5, 7), (0, 2, 7), (0, 3, 6),
             (0, 3, 6, 9), (0, 4, 8), (0, 4, 7, 9), (0, 4, 7, 14), (0, 3, 6, 10)]
QUALITY_WEIGHTS = np.array([8, 8, 3, 5, 4, 2, 2, 1, 1, 1, 2, 2, 1], float)
STRINGS = (40, 45, 50, 55, 59, 64)
SCALE = (0, 2, 4, 5, 7, 9, 11)


def chord(rng):
    tones = QUALITIES[rng.choice(len(QUALITIES), p=QUALITY_WEIGHTS / QUALITY_WEIGHTS.sum())]
    return int(rng.integers(12)), tones


def guitar_voicing(rng):
    """One note a string within four frets of a place on the neck, as a chord of three to six strings."""
    root, tones = chord(rng)
    classes = {(root + tone) % 12 for tone in tones}
    fret = int(rng.choice([0, 0, 0, 1, 2, 3, 5, 7, 9]))
    voicing = []
    for string in STRINGS:
        frets = [f for f in ([0] if fret else []) + list(range(fret, fret + 4)) if (string + f) % 12 in classes]
        if frets:
            voicing.append(string + int(rng.choice(frets)))
    while len(voicing) > 3 and rng.random() < 0.25:
        voicing.pop(0 if rng.random() < 0.7 else -1)
    return sorted(set(voicing))


def key_voicing(rng, low=48, high=79):
    root, tones = chord(rng)
    base = low + int(rng.integers(max(1, high - low - 14)))
    notes = sorted({base + (root + tone - base) % 12 for tone in tones})
    if rng.random() < 0.3:
        notes.append(notes[0] + 12)
    if rng.random() < 0.15 and len(notes) > 3:
        notes.pop(1)
    return sorted(set(notes))


def loudness(rng):
    return float(np.clip(rng.normal(82, 22), 25, 124))


def touch(rng, base, spread=9):
    return float(np.clip(rng.normal(base, spread), 12, 127))


def strums(rng, seconds):
    notes, time, beat = [], rng.uniform(0, 0.5), rng.uniform(0.35, 0.75)
    base = loudness(rng)
    while time < seconds:
        voicing = guitar_voicing(rng)
        for _ in range(int(rng.choice([2, 4, 4, 8]))):
            step = beat * float(rng.choice([0.5, 0.5, 1, 1, 2]))
            spread = rng.uniform(0.003, 0.035)
            down = rng.random() < 0.65
            order = voicing if down else voicing[::-1]
            if not down and len(order) > 3:
                order = order[: int(rng.integers(3, len(order) + 1))]
            level = base + (0 if down else -8)
            ring = step if rng.random() < 0.8 else step * rng.uniform(0.3, 0.9)
            for i, midi in enumerate(order):
                start = time + i * spread + rng.normal(0, 0.003)
                notes.append((start, time + ring, midi, touch(rng, level, 7)))
            time += step
    return notes


def picking(rng, seconds):
    """Broken chords whose strings ring on until they are struck again or the chord changes."""
    notes, time, step = [], rng.uniform(0, 0.4), rng.uniform(0.1, 0.4)
    base = loudness(rng)
    while time < seconds:
        voicing = guitar_voicing(rng)
        pattern = rng.integers(len(voicing), size=int(rng.choice([4, 6, 8])))
        pattern[0] = 0
        begin = time
        struck = []
        for index in np.concatenate([pattern] * int(rng.choice([1, 2]))):
            picks = [voicing[index]]
            if rng.random() < 0.2:
                picks.append(voicing[int(rng.integers(len(voicing)))])
            for midi in set(picks):
                struck.append((time + rng.normal(0, 0.006), midi))
            time += step
        letring = rng.random() < 0.75
        for start, midi in struck:
            end = time if letring else start + step * rng.uniform(0.8, 1.5)
            notes.append((max(begin, start), end, midi, touch(rng, base)))
    return notes


def blocks(rng, seconds):
    notes, time, beat = [], rng.uniform(0, 0.5), rng.uniform(0.3, 0.8)
    low = int(rng.choice([40, 48, 52, 55]))
    base, roll = loudness(rng), float(rng.choice([0.004, 0.004, 0.02]))
    while time < seconds:
        voicing = key_voicing(rng, low)
        for _ in range(int(rng.choice([1, 2, 4, 4]))):
            step = beat * float(rng.choice([0.25, 0.5, 1, 1, 2]))
            length = step * rng.uniform(0.4, 1.0)
            for midi in voicing:
                notes.append((time + abs(rng.normal(0, roll)), time + length, midi, touch(rng, base)))
            time += step
    return notes


def pedal_arpeggio(rng, seconds):
    notes, time, step = [], rng.uniform(0, 0.4), rng.uniform(0.09, 0.35)
    base = loudness(rng)
    while time < seconds:
        voicing = key_voicing(rng, int(rng.choice([36, 43, 48, 55])))
        spread = sorted({n + 12 * o for n in voicing for o in range(int(rng.choice([1, 2, 3])))})
        spread = [n for n in spread if n <= 100]
        order = spread if rng.random() < 0.5 else list(rng.permutation(spread))
        order = (order + order[::-1])[: int(rng.integers(4, 14))]
        times = [time + i * step + rng.normal(0, 0.006) for i in range(len(order))]
        time += len(order) * step
        for start, midi in zip(times, order):
            notes.append((max(0, start), time + 0.02, int(midi), touch(rng, base)))
    return notes


def two_hands(rng, seconds):
    """Bass or broken octaves on the left; on the right chords, octaves or a melody over them."""
    notes, time, beat = [], rng.uniform(0, 0.4), rng.uniform(0.3, 0.75)
    base = loudness(rng)
    right = str(rng.choice(["chords", "octaves", "melody", "thirds"]))
    tonic, place = int(rng.integers(12)), int(rng.integers(20, 30))
    scale = [12 * octave + (tonic + s) for octave in range(9) for s in SCALE]
    while time < seconds:
        bar = int(rng.choice([2, 4]))
        root = int(rng.choice(scale[: 7])) + 12 * int(rng.choice([2, 3]))
        if rng.random() < 0.5:
            left = [(0, bar, (root, root + 12) if rng.random() < 0.5 else (root,))]
        else:
            shape = (root, root + 7, root + 12, root + 16)
            left = [(b / 2, rng.uniform(0.5, 1.5), (shape[b % 4],)) for b in range(2 * bar)]
        for at, length, midis in left:
            for midi in midis:
                notes.append((time + at * beat + rng.normal(0, 0.005), time + (at + length) * beat, midi,
                              touch(rng, base - 6)))
        at = 0.0
        while at < bar:
            length = float(rng.choice([0.25, 0.5, 0.5, 1, 1, 2]))
            place = int(np.clip(place + rng.integers(-3, 4), 33, 48))
            midi = scale[place]
            if right == "chords":
                midis = key_voicing(rng, 58, 84)
            elif right == "octaves":
                midis = [midi, midi + 12]
            elif right == "thirds":
                midis = [midi, scale[place + 2]]
            else:
                midis = [midi]
            if rng.random() > 0.12:
                for m in midis:
                    notes.append((time + at * beat + rng.normal(0, 0.006),
                                  time + (at + length * rng.uniform(0.5, 1.05)) * beat, m, touch(rng, base + 4)))
            at += length
        time += bar * beat
    return notes


def pads(rng, seconds):
    notes, time = [], rng.uniform(0, 0.5)
    base = loudness(rng)
    while time < seconds:
        length = rng.uniform(0.8, 4)
        for midi in key_voicing(rng, int(rng.choice([43, 48, 55]))):
            notes.append((time + abs(rng.normal(0, 0.01)), time + length, midi, touch(rng, base, 5)))
        time += length * rng.uniform(0.95, 1.15)
    return notes


def line(rng, seconds):
    notes, time, beat = [], rng.uniform(0, 0.5), rng.uniform(0.25, 0.7)
    base, midi = loudness(rng), int(rng.integers(50, 76))
    tonic = int(rng.integers(12))
    while time < seconds:
        length = beat * float(rng.choice([0.25, 0.5, 0.5, 1, 1, 2]))
        if rng.random() > 0.1:
            notes.append((time + rng.normal(0, 0.006), time + length * rng.uniform(0.6, 1.0), midi, touch(rng, base)))
        time += length
        midi = int(np.clip(midi + rng.integers(-5, 6), 40, 90))
        while (midi - tonic) % 12 not in SCALE:
            midi += 1
    return notes


def power_chords(rng, seconds):
    notes, time, beat = [], rng.uniform(0, 0.4), rng.uniform(0.12, 0.4)
    base = loudness(rng)
    while time < seconds:
        root = int(rng.integers(40, 55))
        shape = [0, 7] + ([12] if rng.random() < 0.6 else [])
        for _ in range(int(rng.choice([1, 2, 4, 8]))):
            step = beat * float(rng.choice([1, 1, 2]))
            length = step * float(rng.choice([0.35, 0.9, 1.0]))
            for i, tone in enumerate(shape):
                notes.append((time + i * 0.004 + rng.normal(0, 0.002), time + length, root + tone, touch(rng, base, 5)))
            time += step
    return notes


def repeated(rng, seconds):
    """Quick repetitions of one note or chord, alone or over something held."""
    notes, time = [], rng.uniform(0, 0.4)
    base = loudness(rng)
    while time < seconds:
        midis = key_voicing(rng) if rng.random() < 0.5 else [int(rng.integers(40, 86))]
        step, count = rng.uniform(0.07, 0.3), int(rng.integers(3, 10))
        if rng.random() < 0.4:
            held = int(rng.integers(36, 60))
            notes.append((time, time + step * count, held, touch(rng, base)))
        for _ in range(count):
            for midi in midis:
                notes.append((time + rng.normal(0, 0.003), time + step * rng.uniform(0.5, 0.95), midi, touch(rng, base)))
            time += step
    return notes


def scattered(rng, seconds):
    """Notes without any sense, so that the network does not count on harmony."""
    notes, time = [], 0.0
    base = loudness(rng)
    while time < seconds:
        time += rng.exponential(0.18)
        for midi in rng.integers(28, 97, size=int(rng.choice([1, 1, 1, 2, 3]))):
            notes.append((time, time + rng.uniform(0.08, 1.8), int(midi), touch(rng, base, 16)))
    return notes


STYLES = {
    "guitar": [(strums, 4), (picking, 4), (line, 1.5), (power_chords, 1), (blocks, 1), (repeated, 1), (scattered, 1)],
    "keys": [(blocks, 2), (pedal_arpeggio, 3), (two_hands, 4), (line, 1), (pads, 1), (repeated, 1.5), (scattered, 1.5)],
    "held": [(pads, 3), (two_hands, 2), (blocks, 2), (line, 1), (repeated, 0.5), (scattered, 0.5)],
}


def tidy(notes, seconds, low=21, high=108):
    """Sorted, within the clip and the range; a pitch struck again ends the one before it."""
    notes = sorted((max(0.0, s), e, int(m), v) for s, e, m, v in notes if s < seconds - 0.3 and low <= m <= high)
    last = {}
    result = []
    for start, end, midi, velocity in notes:
        if midi in last:
            i = last[midi]
            before = result[i]
            if start - before[0] < 0.05:
                continue
            if before[1] > start - 0.01:
                result[i] = (before[0], start - 0.01, midi, before[3])
        last[midi] = len(result)
        result.append((start, max(end, start + 0.05), midi, velocity))
    return result


def compose(rng, kind, seconds):
    styles = STYLES[kind]
    weights = np.array([weight for _, weight in styles], float)
    notes, time = [], 0.0
    while time < seconds:
        length = rng.uniform(8, 20)
        style = styles[rng.choice(len(styles), p=weights / weights.sum())][0]
        notes += [(s + time, e + time, m, v) for s, e, m, v in style(rng, min(length, seconds - time)) if s < length]
        time += length
    return tidy(notes, seconds)
