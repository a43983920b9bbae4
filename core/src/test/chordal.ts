/** What tests of the chordal reader begin with: a recording in which nothing sounds, and a note that was found. */
import type { Activations } from '../reading/chordal/activations.ts';
import { KEYS } from '../reading/chordal/network.ts';
import type { FoundNote } from '../reading/chordal/noteContext.ts';

/** The key of C4. */
export const C4 = 39;

export const silentActivations = (frames: number): Activations => ({
  frames,
  tuningCents: 0,
  onset: new Uint8Array(frames * KEYS),
  active: new Uint8Array(frames * KEYS),
  level: new Uint8Array(frames * KEYS),
  attack: new Uint8Array(frames * KEYS),
});

export const foundNote = (startFrame: number, endFrame: number, key = C4): FoundNote => ({
  key,
  startFrame,
  endFrame,
  onset: 0.9,
  sounding: 0.9,
  spread: 0.4,
  levelDb: -20,
  riseDb: 20,
});
