/** Plays a sound that comes in pieces, each asked for shortly before its time, without a gap between them. */
import { envelopeOf, FADE_SECONDS, followEnvelope } from './envelope.ts';
import type { Later } from './later.ts';
import type { RecordingTrack } from './playlist.ts';
import type { SoundingStretch, StopSound } from './recordingSounds.ts';

/** A piece that should sound already begins this much later, so that it is ready in time. */
const LATE_SECONDS = 0.01;

export interface SoundPiece {
  buffer: AudioBuffer;
  /** Where it lies in its sound. */
  fromSeconds: number;
  toSeconds: number;
}

export interface PiecedSound {
  durationSeconds: number;
  /** How long before it sounds a piece is asked for. */
  aheadSeconds: number;
  /**
   * The piece in which a second lies.
   * @param before the piece that it follows
   */
  pieceAt(track: RecordingTrack, seconds: number, before?: SoundPiece): Promise<SoundPiece>;
}

export interface PieceOutput {
  context: BaseAudioContext;
  later: Later;
  /** A piece could not be had while it was wanted. */
  problem(error: unknown): void;
}

export function playInPieces(
  { context, later, problem }: PieceOutput,
  sound: PiecedSound,
  track: RecordingTrack,
  { at, fromSeconds, lengthSeconds, output, fadeIn }: SoundingStretch,
): StopSound {
  const { sampleRate } = context;
  // On the grid of samples, so that one piece goes on where the one before ends.
  const onGrid = (seconds: number) => Math.round(seconds * sampleRate) / sampleRate;
  const [begin, first] = [onGrid(at), onGrid(fromSeconds)];
  const end = Math.min(first + lengthSeconds, sound.durationSeconds);
  const fade = context.createGain();
  fade.connect(output);
  const envelope = envelopeOf(track, sound.durationSeconds);
  followEnvelope(fade.gain, envelope, first, begin, fadeIn);
  let stopped = false;
  let cancel = () => undefined as void;
  let sounding: AudioBufferSourceNode[] = [];

  const play = async (seconds: number, before?: SoundPiece): Promise<void> => {
    const piece = await sound.pieceAt(track, seconds, before);
    if (stopped) return;
    const from = Math.max(first, piece.fromSeconds);
    const to = Math.min(end, piece.toSeconds);
    const due = begin + from - first;
    const late = Math.max(0, onGrid(context.currentTime + LATE_SECONDS - due));
    // After a gap the sound would begin with a click.
    if (late > 0) {
      fade.gain.cancelScheduledValues(due + late);
      followEnvelope(fade.gain, envelope, from + late, due + late, true);
    }
    if (from + late < to) {
      const node = context.createBufferSource();
      node.buffer = piece.buffer;
      node.connect(fade);
      node.start(due + late, from + late - piece.fromSeconds, to - from - late);
      node.onended = () => (sounding = sounding.filter((each) => each !== node));
      sounding.push(node);
    }
    if (to < end) begins(begin + to - first - sound.aheadSeconds, to, piece);
  };
  const begins = (when: number, seconds: number, before?: SoundPiece) => {
    cancel = later(when, () =>
      play(seconds, before).catch((error: unknown) => {
        if (!stopped) problem(error);
      }),
    );
  };
  begins(0, first);

  return (when) => {
    const stopAt = Math.max(when, context.currentTime);
    fade.gain.cancelScheduledValues(stopAt);
    fade.gain.setTargetAtTime(0, stopAt, FADE_SECONDS / 3);
    sounding.forEach((node) => node.stop(stopAt + 2 * FADE_SECONDS));
    stopped = true;
    cancel();
  };
}
