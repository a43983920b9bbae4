/**
 * Reads the melody of a single-line recording: contour → evidence → segments → measures. Each stage is a pure
 * function on typed arrays that can be plotted and tested alone.
 *
 * Method: candidates of pitch from the cumulative mean normalised difference with a threshold prior
 * (de Cheveigné & Kawahara 2002; Mauch & Dixon 2014), a most likely path through them, onset strength by
 * spectral flux (Böck & Widmer 2013), and a trained network of dilated convolutions that sees 0.7 s of these to each side and
 * judges where a note sounds and where one starts. Where it differs from the published methods:
 *
 * 1. Viterbi runs over the candidates, not over a pitch grid; there is no quantisation of pitch.
 * 2. Voicing is not decided in the path but afterwards, from context; a frame alone cannot tell a soft note
 *    from the tail of a room.
 * 3. Notes are not states of a hidden Markov model: starts are peaks of learned evidence, so a repeated note
 *    needs no gap and a vibrato no special state.
 */
import { createResampler, finiteSamples, type Hertz } from '../signal/index.ts';
import { midiToHz } from '../theory/index.ts';
import type { FrameFeatures } from './frameFeatures.ts';
import { chooseKind, type KindChoice } from './kindChoice.ts';
import type { Contour, ReadNote } from './line.ts';
import { HOP_SECONDS, READING_HZ, type MelodyKind } from './melodySettings.ts';
import { weighEvidence } from './noteEvidence.ts';
import { measureNote } from './noteMeasures.ts';
import { segmentNotes } from './noteSegments.ts';
import { refineStarts } from './noteStarts.ts';
import { trackPitch } from './pitchTrack.ts';
import { settlePitch } from './settlePitch.ts';
import { estimateTuning } from './tuning.ts';

export interface MelodyReading {
  kind: KindChoice;
  contour: Contour;
  /** In order of their start; they do not overlap. */
  notes: ReadNote[];
  /** What might be notes as well, but are more often wrong than right. */
  faintNotes: ReadNote[];
  /** Loudness of each contour frame in dB below full scale. */
  levelDb: Float32Array;
  /** How far the whole recording is from A4 = 440 Hz, −50…50 cents; 0 when too little sounds to tell. */
  tuningCents: number;
}

export interface MelodyReader {
  /** Adds mono samples at the rate given; values that are not finite count as silence. */
  push(samples: Float32Array): void;
  finish(): MelodyReading;
}

/** Starts reading a stream of mono samples at `sampleRateHz`. */
export function createMelodyReader(sampleRateHz: Hertz, kind: MelodyKind): MelodyReader {
  const resampler = createResampler(sampleRateHz, READING_HZ);
  const chooser = chooseKind(kind);
  const feed = (samples: Float32Array) => chooser.push(samples);
  return {
    push: (samples) => feed(resampler.push(finiteSamples(samples))),
    finish() {
      feed(resampler.finish());
      const { features, choice } = chooser.finish();
      return { kind: choice, ...readFeatures(features) };
    },
  };
}

/** Reads a whole mono signal at once. */
export function readMelody(
  samples: Float32Array,
  sampleRateHz: Hertz,
  kind: MelodyKind = 'auto',
): MelodyReading {
  const reader = createMelodyReader(sampleRateHz, kind);
  reader.push(samples);
  return reader.finish();
}

/** Notes less sure than this, of which one in five is right, are not put into a line but offered. */
const FAINT_CONFIDENCE = 0.3;
/** From this evidence on a frame counts as sounding. */
const VOICED = 0.45;

function readFeatures(features: FrameFeatures): Omit<MelodyReading, 'kind'> {
  const track = trackPitch(features);
  const evidence = weighEvidence(features, track);
  const segments = refineStarts(segmentNotes(evidence, track), features, track);
  const notes = segments.flatMap((segment) => measureNote(segment, features, track, evidence) ?? []);
  const midi = settlePitch(track, notes, features);
  const f0Hz = new Float32Array(features.frames);
  const confidence = new Float32Array(features.frames);
  for (let t = 0; t < features.frames; t++) {
    const sounding = evidence.sounding[t];
    if (midi[t] > 0) f0Hz[t] = (sounding >= VOICED ? 1 : -1) * midiToHz(midi[t]);
    confidence[t] = Math.max(sounding, 1 - sounding);
  }
  return {
    contour: { hopSeconds: HOP_SECONDS, f0Hz, confidence },
    notes: notes.filter((note) => note.confidence >= FAINT_CONFIDENCE),
    faintNotes: notes.filter((note) => note.confidence < FAINT_CONFIDENCE),
    levelDb: features.levelDb,
    tuningCents: estimateTuning(notes),
  };
}
