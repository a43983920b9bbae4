import type { Hertz } from '../signal/index.ts';

/** Material of a single-line recording; `auto` finds it out. */
export type MelodyKind = 'voice' | 'guitar' | 'bass' | 'auto';

/** Search range and window of one kind of material. */
export interface KindSettings {
  lowestHz: Hertz;
  highestHz: Hertz;
  /** Integration window of the difference function in samples at {@link READING_HZ}. */
  windowSamples: number;
  /** Pitch moves so fast that it is measured again over a short window, and vowels lift single harmonics. */
  sung?: true;
}

/** All readings work at this rate: harmonics up to 11 kHz are kept, which onset evidence needs. */
export const READING_HZ = 22050;
/** Frame spacing: 256 samples = 11.6 ms. */
export const HOP_SAMPLES = 256;
export const HOP_SECONDS = HOP_SAMPLES / READING_HZ;
/** Spacing of the envelope that starts are timed by: 2.9 ms. */
export const ENVELOPE_HOP_SAMPLES = 64;

/**
 * Ranges: voice from a low bass (C2) to a high soprano (C6 and a little more); guitar from a low E string tuned
 * down a tone to the 24th fret; bass from a five-string's low B. `auto` spans them all. The window holds at least
 * two and a half periods of the lowest note that is common for the kind.
 */
export const KINDS: Record<Exclude<MelodyKind, 'auto'> | 'wide', KindSettings> = {
  voice: { lowestHz: 62, highestHz: 1250, windowSamples: 1024, sung: true },
  guitar: { lowestHz: 70, highestHz: 1500, windowSamples: 1024 },
  bass: { lowestHz: 29, highestHz: 500, windowSamples: 1792 },
  wide: { lowestHz: 55, highestHz: 2200, windowSamples: 1024 },
};

/** Changes whenever the same recording could read differently; part of the key of cached readings. */
export const MELODY_ALGORITHM_VERSION = 11;
