import type { FrameFeatures } from './frameFeatures.ts';
import { createFeatureStream } from './frameFeatures.ts';
import { KINDS, READING_HZ, type MelodyKind } from './melodySettings.ts';
import { quantile } from '../signal/index.ts';
import { trackPitch } from './pitchTrack.ts';

/** The range a recording was read with, and why. */
export interface KindChoice {
  kind: Exclude<MelodyKind, 'auto'> | 'wide';
  /** A sentence for the user. */
  reason: string;
}

/** Seconds of sound (silence apart) that decide between the bass range and the wide one. */
const TRIAL_SECONDS = 12;
/** Level below which a second does not count towards the trial. */
const TRIAL_FLOOR = 1e-3;
/** A recording whose middle pitch lies below this is read as a bass: B2, above which no bass line stays. */
const BASS_BELOW_MIDI = 47;

/**
 * Computes the features with the range of `kind`. On `auto` the first seconds of sound are held back, read with
 * the bass range, which reaches up to 500 Hz, and the middle pitch decides.
 */
export function chooseKind(kind: MelodyKind): {
  push(samples: Float32Array): void;
  finish(): { features: FrameFeatures; choice: KindChoice };
} {
  if (kind !== 'auto') {
    const stream = createFeatureStream(KINDS[kind]);
    return {
      push: (samples) => stream.push(samples),
      finish: () => ({
        features: stream.finish(),
        choice: { kind, reason: `Read as ${kind}, as you chose.` },
      }),
    };
  }
  let held: Float32Array[] = [];
  let soundingSamples = 0;
  let decided: { stream: ReturnType<typeof createFeatureStream>; choice: KindChoice } | undefined;

  const decide = () => {
    const trial = createFeatureStream(KINDS.bass);
    for (const piece of held) trial.push(piece);
    const features = trial.finish();
    const track = trackPitch(features);
    const pitches = track.midi.filter((midi, t) => midi > 0 && track.probability[t] > 0.5);
    const middle = pitches.length > 40 ? quantile(pitches, 0.5) : Infinity;
    const choice: KindChoice =
      middle < BASS_BELOW_MIDI
        ? { kind: 'bass', reason: 'Read as bass: most of the sound lies below B2.' }
        : { kind: 'wide', reason: 'Read over the wide range of voices, guitars and keys.' };
    const stream = createFeatureStream(KINDS[choice.kind]);
    for (const piece of held) stream.push(piece);
    held = [];
    decided = { stream, choice };
    return decided;
  };

  return {
    push(samples) {
      if (decided) return decided.stream.push(samples);
      held.push(samples.slice());
      let energy = 0;
      for (let i = 0; i < samples.length; i++) energy += samples[i] * samples[i];
      if (energy > TRIAL_FLOOR ** 2 * samples.length) soundingSamples += samples.length;
      if (soundingSamples > TRIAL_SECONDS * READING_HZ) decide();
    },
    finish() {
      const { stream, choice } = decided ?? decide();
      return { features: stream.finish(), choice };
    },
  };
}
