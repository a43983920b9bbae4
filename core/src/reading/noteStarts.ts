/**
 * When exactly a note starts. The evidence says that one does, to a frame or two; the envelope of the waveform says
 * when: where it has come within 15 dB of the attack's peak, which is about where a soft start is heard and close to
 * the first sample of a hard one.
 */
import { midiToHz } from '../theory/index.ts';
import type { FrameFeatures } from './frameFeatures.ts';
import { ENVELOPE_HOP_SAMPLES, HOP_SAMPLES, READING_HZ } from './melodySettings.ts';
import type { NoteSegment } from './noteSegments.ts';
import type { PitchTrack } from './pitchTrack.ts';

/** How far the envelope may correct the evidence. */
const REACH_SECONDS = 0.035;
/**
 * Later than the evidence by as much, where nothing is sung: horns and clarinets are heard long before they have swelled to a
 * start. A voice may swell from a murmur to its vowel, and has begun before.
 */
const SWELL_SECONDS = 0.12;
/** The quiet before an attack is looked for from this long before … this long after the evidence. */
const QUIET_BEFORE_SECONDS = 0.05;
const QUIET_AFTER_SECONDS = 0.02;
/** An attack has reached its peak after this time. */
const ATTACK_SECONDS = 0.1;
/** Amplitude at the start relative to the peak: −15 dB. */
const START_SHARE = 10 ** (-15 / 20);
/** After a smaller rise (20 dB) something else sounds on into the start, and the evidence times it better. */
const MIN_RISE = 10 ** (20 / 20);
/** What still sounds is outdone this much (8 dB) from one period to the next by a fresh attack. */
const SUDDEN_RISE = 10 ** (8 / 20);

/** The same segments with starts as the envelope has them; an end that touches a start moves with it. */
export function refineStarts(
  segments: readonly NoteSegment[],
  features: FrameFeatures,
  track: PitchTrack,
): NoteSegment[] {
  const refined = segments.map((segment) => {
    const first = Math.max(0, Math.ceil(segment.startFrame));
    const midi = track.midi.subarray(first, first + 8).find((value) => value > 0) ?? 60;
    const at = attackStart(
      features.envelope,
      segment.startFrame * HOP_SAMPLES,
      READING_HZ / midiToHz(midi),
      features.sung ? REACH_SECONDS : SWELL_SECONDS,
    );
    return at === undefined ? segment : { ...segment, startFrame: at / HOP_SAMPLES };
  });
  return refined.map((segment, i) =>
    i + 1 < refined.length && segment.endFrame === segments[i + 1].startFrame
      ? { ...segment, endFrame: refined[i + 1].startFrame }
      : segment,
  );
}

/**
 * Sample at which the attack near sample `near` starts, or nothing where the envelope shows none there. `envelope`
 * holds the peak of each {@link ENVELOPE_HOP_SAMPLES}; `periodSamples` is the period of what sounds after it; `laterSeconds`: how
 * much later than `near` it may lie.
 */
export function attackStart(
  envelope: Float32Array,
  near: number,
  periodSamples: number,
  laterSeconds = REACH_SECONDS,
): number | undefined {
  const place = (samples: number) => Math.round(samples / ENVELOPE_HOP_SAMPLES);
  const reach = (seconds: number) => Math.round((seconds * READING_HZ) / ENVELOPE_HOP_SAMPLES);
  const centre = place(near);
  // A low note passes through zero for longer than one value; over a period it shows its peak.
  const span = Math.max(1, Math.ceil(periodSamples / ENVELOPE_HOP_SAMPLES));
  const last = envelope.length - 1;
  const peak = most(
    envelope,
    centre - reach(0.01),
    Math.min(last, centre + reach(ATTACK_SECONDS - REACH_SECONDS + laterSeconds)),
  );
  let floor = Infinity;
  let quietEnd = 0;
  for (
    let i = centre - reach(QUIET_BEFORE_SECONDS);
    i + span - 1 <= centre + reach(QUIET_AFTER_SECONDS);
    i++
  ) {
    const value = most(envelope, i, i + span - 1);
    if (value <= floor) {
      floor = value;
      quietEnd = i + span;
    }
  }
  if (peak <= 0) return undefined;
  if (peak < floor * MIN_RISE)
    return suddenRise(envelope, centre - reach(REACH_SECONDS), centre + reach(REACH_SECONDS), span);
  const threshold = peak * START_SHARE;
  let i = Math.max(0, quietEnd);
  while (i <= last && envelope[i] < threshold) i++;
  const before = i > 0 ? envelope[i - 1] : 0;
  const part = envelope[i] > before ? (threshold - before) / (envelope[i] - before) : 0;
  const at = (i - 0.5 + Math.min(1, Math.max(0, part))) * ENVELOPE_HOP_SAMPLES;
  const off = (at - near) / READING_HZ;
  return off >= -REACH_SECONDS && off <= laterSeconds ? Math.max(0, at) : undefined;
}

/** Where the peak over a period jumps up most, if it jumps far: a fresh attack on something that still sounds. */
function suddenRise(envelope: Float32Array, from: number, to: number, span: number): number | undefined {
  let widest = SUDDEN_RISE;
  let found: number | undefined;
  for (let i = Math.max(span, from); i <= to; i++) {
    const before = most(envelope, i - span, i - 1);
    const rise = before > 0 ? most(envelope, i, i + span - 1) / before : 0;
    if (rise > widest) {
      widest = rise;
      found = i * ENVELOPE_HOP_SAMPLES;
    }
  }
  return found;
}

function most(values: Float32Array, from: number, to: number): number {
  let result = 0;
  for (let i = Math.max(0, from); i <= to && i < values.length; i++)
    if (values[i] > result) result = values[i];
  return result;
}
