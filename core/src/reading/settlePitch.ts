/**
 * The path is found before the notes are. Once a note is known, frames in it that slipped to an octave, or that another
 * candidate explains better, are taken back to it: mostly its attack, where the note before still sounds in the window.
 */
import type { FrameFeatures } from './frameFeatures.ts';
import type { ReadNote } from './line.ts';
import { HOP_SECONDS } from './melodySettings.ts';
import { CANDIDATES } from './pitchCandidates.ts';
import type { PitchTrack } from './pitchTrack.ts';

/** What lies closer to the note than this is scoop, slide or vibrato and stays. */
const OWN_SEMITONES = 1.5;
const NEAR_SEMITONES = 1;

/** Fractional MIDI of every frame, 0 where there is none; `track` is left as it is. */
export function settlePitch(
  track: PitchTrack,
  notes: readonly ReadNote[],
  features: FrameFeatures,
): Float32Array {
  const midi = track.midi.slice();
  for (const note of notes) {
    const first = Math.ceil(note.startSeconds / HOP_SECONDS);
    const last = Math.min(features.frames - 1, Math.floor(note.endSeconds / HOP_SECONDS));
    for (let t = first; t <= last; t++) {
      if (midi[t] > 0 && Math.abs(midi[t] - note.midi) < OWN_SEMITONES) continue;
      const octaves = Math.round((note.midi - midi[t]) / 12);
      const folded = midi[t] + 12 * octaves;
      midi[t] =
        midi[t] > 0 && octaves !== 0 && Math.abs(folded - note.midi) < NEAR_SEMITONES
          ? folded
          : (likeliestNear(features, t, note.midi) ?? midi[t]);
    }
  }
  return midi;
}

function likeliestNear(features: FrameFeatures, frame: number, midi: number): number | undefined {
  const { candidateMidi, candidateProbability } = features;
  let best: number | undefined;
  let most = 0;
  for (let k = frame * CANDIDATES; k < (frame + 1) * CANDIDATES; k++) {
    if (candidateProbability[k] <= most || Math.abs(candidateMidi[k] - midi) >= NEAR_SEMITONES) continue;
    most = candidateProbability[k];
    best = candidateMidi[k];
  }
  return best;
}
