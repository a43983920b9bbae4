/** The loudness of a recording over the time it sounds: its level, its fades, and what keeps its edges from clicking. */
import type { RecordingTrack } from './playlist.ts';

/** Sound fades over this time where it begins or ends in its middle. */
export const FADE_SECONDS = 0.008;
/** At the edge of a passage: short enough for a struck string or drum to stay one. */
const EDGE_SECONDS = 0.003;

/** A gain at a time; between two the gain goes straight from one to the other. */
export interface EnvelopePoint {
  seconds: number;
  gain: number;
}

type Faded = Pick<
  RecordingTrack,
  'fromSeconds' | 'toSeconds' | 'levelDb' | 'fadeInSeconds' | 'fadeOutSeconds'
>;

/**
 * The envelope of a track in seconds of its recording, from its first second to its last.
 * @param recordedSeconds length of the recording: at its own ends nothing has to be kept from clicking
 */
export function envelopeOf(track: Faded, recordedSeconds: number): EnvelopePoint[] {
  const { fromSeconds, toSeconds } = track;
  const level = 10 ** (track.levelDb / 20);
  const atEnd = toSeconds > recordedSeconds - 0.001;
  let fadeIn = track.fadeInSeconds ?? (fromSeconds > 0 ? EDGE_SECONDS : 0);
  let fadeOut = track.fadeOutSeconds ?? (atEnd ? 0 : EDGE_SECONDS);
  // Fades that would overlap share the time there is.
  const share = Math.min(1, (toSeconds - fromSeconds) / Math.max(1e-9, fadeIn + fadeOut));
  fadeIn *= share;
  fadeOut *= share;
  return [
    { seconds: fromSeconds, gain: fadeIn > 0 ? 0 : level },
    { seconds: fromSeconds + fadeIn, gain: level },
    { seconds: toSeconds - fadeOut, gain: level },
    { seconds: toSeconds, gain: fadeOut > 0 ? 0 : level },
  ];
}

/** The gain of an envelope at a time. */
export function gainAt(points: readonly EnvelopePoint[], seconds: number): number {
  const after = points.findIndex((point) => point.seconds > seconds);
  if (after < 0) return points[points.length - 1].gain;
  if (after === 0) return points[0].gain;
  const [a, b] = [points[after - 1], points[after]];
  return a.gain + ((seconds - a.seconds) / (b.seconds - a.seconds)) * (b.gain - a.gain);
}

/**
 * Lets a gain follow an envelope from a second of it on.
 * @param at context time of that second
 * @param fadeIn whether it begins in the middle of the sound, which would click
 */
export function followEnvelope(
  gain: AudioParam,
  points: readonly EnvelopePoint[],
  fromSeconds: number,
  at: number,
  fadeIn: boolean,
): void {
  const start = fadeIn ? fromSeconds + FADE_SECONDS : fromSeconds;
  gain.setValueAtTime(fadeIn ? 0 : gainAt(points, fromSeconds), at);
  if (fadeIn) gain.linearRampToValueAtTime(gainAt(points, start), at + FADE_SECONDS);
  for (const point of points)
    if (point.seconds > start) gain.linearRampToValueAtTime(point.gain, at + point.seconds - fromSeconds);
}
