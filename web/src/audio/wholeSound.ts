/** A recording that is held decoded, with corrections laid into a copy. */
import type { Correction } from './corrections.ts';
import { envelopeOf, FADE_SECONDS, followEnvelope } from './envelope.ts';
import { createMadePieces } from './madeSound.ts';
import { playInPieces, type PieceOutput } from './playInPieces.ts';
import type { RecordingSound } from './recordingSounds.ts';
import type { RecordingTrack } from './playlist.ts';

/** Copies are kept for so many takes; one that went is made again from its correction. */
const MOST_KEPT = 100;

export function createWholeSound(output: PieceOutput, sound: AudioBuffer): RecordingSound {
  const { context } = output;
  /** The last that was made for each take. */
  const patched = new Map<string, { version: number; buffer: AudioBuffer }>();
  const pieces = createMadePieces(context);

  const corrected = (key: string, correction: Correction | undefined): AudioBuffer => {
    if (!correction || correction.patches.length === 0) return sound;
    const known = patched.get(key);
    if (known?.version === correction.version) return known.buffer;
    if (patched.size >= MOST_KEPT) patched.delete(patched.keys().next().value!);
    const buffer = context.createBuffer(sound.numberOfChannels, sound.length, sound.sampleRate);
    for (let c = 0; c < sound.numberOfChannels; c++) {
      const channel = buffer.getChannelData(c);
      sound.copyFromChannel(channel, c);
      for (const patch of correction.patches) channel.set(patch.channels[c], patch.start);
    }
    patched.set(key, { version: correction.version, buffer });
    return buffer;
  };
  const madeOf = ({ correction }: RecordingTrack) => correction?.made && pieces(correction.made);

  return {
    decoded: sound,
    prepare: (track, fromSeconds) =>
      madeOf(track)?.pieceAt(track, fromSeconds) ??
      Promise.resolve(corrected(track.source, track.correction)),
    start(track, stretch) {
      const made = madeOf(track);
      if (made) return playInPieces(output, made, track, stretch);
      const { at, fromSeconds, lengthSeconds, fadeIn } = stretch;
      const source = context.createBufferSource();
      const fade = context.createGain();
      const buffer = corrected(track.source, track.correction);
      source.buffer = buffer;
      source.connect(fade).connect(stretch.output);
      followEnvelope(fade.gain, envelopeOf(track, buffer.duration), fromSeconds, at, fadeIn);
      source.start(at, fromSeconds, lengthSeconds);
      return (when) => {
        const end = Math.max(when, context.currentTime);
        fade.gain.cancelScheduledValues(end);
        fade.gain.setTargetAtTime(0, end, FADE_SECONDS / 3);
        source.stop(end + 2 * FADE_SECONDS);
        source.onended = () => fade.disconnect();
      };
    },
  };
}
