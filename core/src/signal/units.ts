/**
 * Unit aliases: a signature says what a number is. They are plain numbers; names carry the unit too
 * wherever a literal meets them.
 */
export type Seconds = number;
export type Hertz = number;
export type Cents = number;
export type Decibels = number;
/** Musical time, 960 to the quarter note. */
export type Ticks = number;
/** Fractional MIDI note number; 69 = A4 = 440 Hz (ISO 16:1975, MIDI Tuning Standard). */
export type Midi = number;
/** Sample index at the rate named beside it. */
export type Frames = number;
/** Distance in pitch; 12 to the octave. */
export type Semitones = number;
