import type { Cents, Hertz, Midi } from '../signal/index.ts';

/** Frequency of a MIDI note: f = 440 · 2^((n − 69) / 12) (ISO 16:1975; MIDI Tuning Standard). */
export function midiToHz(midi: Midi): Hertz {
  return 440 * 2 ** ((midi - 69) / 12);
}

/** Fractional MIDI note of a frequency above 0 Hz. */
export function hzToMidi(f0Hz: Hertz): Midi {
  return 69 + 12 * Math.log2(f0Hz / 440);
}

const SHARP_NAMES = ['C', 'C♯', 'D', 'D♯', 'E', 'F', 'F♯', 'G', 'G♯', 'A', 'A♯', 'B'];
const FLAT_NAMES = ['C', 'D♭', 'D', 'E♭', 'E', 'F', 'G♭', 'G', 'A♭', 'A', 'B♭', 'B'];

/** Name of the nearest note with its octave, C4 = MIDI 60. */
export function noteName(midi: Midi, preferFlats = false): string {
  const nearest = Math.round(midi);
  const names = preferFlats ? FLAT_NAMES : SHARP_NAMES;
  return `${names[mod12(nearest)]}${Math.floor(nearest / 12) - 1}`;
}

/** Pitch class 0–11 of any whole MIDI note, negative ones included. */
export function mod12(midi: number): number {
  return ((midi % 12) + 12) % 12;
}

/** Distance from the nearest note, −50…50 cents. */
export function centsFromNearest(midi: Midi): Cents {
  return (midi - Math.round(midi)) * 100;
}

const LETTERS: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };

/**
 * Reads a typed note: a name with octave ("F#3", "B♭4", "Bb4 +12" with cents) or a MIDI number ("60.12").
 * Returns undefined when it is neither, or outside MIDI 0–127.
 */
export function parseNote(text: string): Midi | undefined {
  const trimmed = text.trim();
  const named = /^([A-Ga-g])([#♯b♭]?)(-?\d)(?:\s*([+-−]\s*\d+(?:\.\d+)?)\s*(?:c|cents?)?)?$/.exec(trimmed);
  let midi: number;
  if (named) {
    const [, letter, accidental, octave, cents] = named;
    const shift = accidental === '' ? 0 : accidental === '#' || accidental === '♯' ? 1 : -1;
    const offset = cents ? Number(cents.replace(/\s/g, '').replace('−', '-')) : 0;
    midi = LETTERS[letter.toUpperCase()] + shift + (Number(octave) + 1) * 12 + offset / 100;
  } else if (/^\d+(\.\d+)?$/.test(trimmed)) {
    midi = Number(trimmed);
  } else {
    return undefined;
  }
  return midi >= 0 && midi <= 127 ? midi : undefined;
}
