/** Levels and places of parts as MIDI controllers hold them. */

/** Semitones up and down that a full pitch wheel means in our files (registered parameter 0). */
export const BEND_RANGE_SEMITONES = 12;
/** Largest step of the wheel above its centre. */
export const FULL_WHEEL = 8191;
export const DRUM_CHANNEL = 9;

/** Channel volume by General MIDI's recommended curve, 40·log10(value/127) dB, with 0 dB at 100. */
export function levelToController(levelDb: number): number {
  return Math.max(0, Math.min(127, Math.round(100 * 10 ** (levelDb / 40))));
}

export function controllerToLevel(value: number): number {
  return value === 0 ? -60 : Math.round(Math.max(-60, 40 * Math.log10(value / 100)) * 10) / 10;
}

export function panToController(pan: number): number {
  return Math.round(64 + pan * (pan < 0 ? 64 : 63));
}

export function controllerToPan(value: number): number {
  return Math.round(((value - 64) / (value < 64 ? 64 : 63)) * 100) / 100;
}
