"""Sound banks played through fluidsynth's library, without its own reverb and chorus."""

import ctypes
import ctypes.util

import numpy as np
from scipy.signal import resample_poly

RENDER_RATE_HZ = 44100
SAMPLE_RATE_HZ = 22050
BLOCK = 64


class Synth:
    """One bank in memory; every call of `render` starts from silence."""

    def __init__(self, path):
        name = ctypes.util.find_library("fluidsynth") or "libfluidsynth.so.3"
        lib = ctypes.CDLL(name)
        for function in ("new_fluid_settings", "new_fluid_synth"):
            getattr(lib, function).restype = ctypes.c_void_p
        self.lib = lib
        self.settings = ctypes.c_void_p(lib.new_fluid_settings())
        lib.fluid_settings_setnum(self.settings, b"synth.sample-rate", ctypes.c_double(RENDER_RATE_HZ))
        lib.fluid_settings_setnum(self.settings, b"synth.gain", ctypes.c_double(0.3))
        for switch in (b"synth.reverb.active", b"synth.chorus.active"):
            lib.fluid_settings_setint(self.settings, switch, 0)
        self.synth = ctypes.c_void_p(lib.new_fluid_synth(self.settings))
        if lib.fluid_synth_sfload(self.synth, path.encode(), 1) < 0:
            raise FileNotFoundError(f"{path} could not be loaded as a sound bank")

    def render(self, notes, program, seconds, bank=0, detune_cents=0.0, drums=False):
        """`notes`: (start, end, midi, velocity) in seconds. Returns mono samples at 22,050 Hz."""
        lib, synth = self.lib, self.synth
        lib.fluid_synth_system_reset(synth)
        channel = 9 if drums else 0
        lib.fluid_synth_bank_select(synth, channel, 128 if drums else bank)
        lib.fluid_synth_program_change(synth, channel, program)
        lib.fluid_synth_pitch_wheel_sens(synth, channel, 2)
        lib.fluid_synth_pitch_bend(synth, channel, int(round(8192 + detune_cents / 200 * 8192)))
        events = []
        for start, end, midi, velocity in notes:
            events.append((start, 1, midi, velocity))
            events.append((end, 0, midi, 0))
        # Ends first, so that a repeated note starts afresh.
        events.sort(key=lambda event: (event[0], event[1]))
        total = int(seconds * RENDER_RATE_HZ)
        left = np.zeros(total + BLOCK, np.float32)
        right = np.zeros(total + BLOCK, np.float32)
        at = 0
        for time, on, midi, velocity in events + [(seconds, 0, -1, 0)]:
            until = min(total, int(time * RENDER_RATE_HZ))
            if until > at:
                lib.fluid_synth_write_float(
                    synth, until - at,
                    left.ctypes.data_as(ctypes.c_void_p), at, 1,
                    right.ctypes.data_as(ctypes.c_void_p), at, 1)
                at = until
            if midi < 0:
                continue
            if on:
                lib.fluid_synth_noteon(synth, channel, int(midi), int(max(1, min(127, velocity))))
            else:
                lib.fluid_synth_noteoff(synth, channel, int(midi))
        mono = (left[:total] + right[:total]) / 2
        return resample_poly(mono, 1, 2).astype(np.float32)
