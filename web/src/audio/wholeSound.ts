/** A recording that is held decoded, with corrections laid into a copy. */
import { envelopeOf, FADE_SECONDS, followEnvelope } from './envelope.ts';
import type { RecordingSound } from './recordingSounds.ts';
import type { RecordingTrack } from './playlist.ts';
import type { Streams } from './streamedSound.ts';

/** Copies are kept for so many takes; one that went is made again from its correction. */
const MOST_KEPT = 100;

export function createWholeSound(
  context: BaseAudioContext,
  sound: AudioBuffer,
  streams: Streams,
): RecordingSound {
  /** The last that was made for each take. */
  const patched = new Map<string, { version: number; buffer: AudioBuffer }>();

  const corrected = ({ source: key, correction }: RecordingTrack): AudioBuffer => {
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

  return {
    decoded: sound,
    prepare(track, fromSeconds) {
      const made = track.correction?.made;
      return made ? streams.prepare(made, fromSeconds) : Promise.resolve(corrected(track));
    },
    start(track, stretch) {
      const made = track.correction?.made;
      if (made) return streams.start(made, track, stretch);
      const { at, fromSeconds, lengthSeconds, output, fadeIn } = stretch;
      const source = context.createBufferSource();
      const fade = context.createGain();
      const buffer = corrected(track);
      source.buffer = buffer;
      source.connect(fade).connect(output);
      followEnvelope(fade.gain, envelopeOf(track, buffer.duration), fromSeconds, at, fadeIn);
      source.start(at, fromSeconds, lengthSeconds);
      return {
        stop(when) {
          const end = Math.max(when, context.currentTime);
          fade.gain.cancelScheduledValues(end);
          fade.gain.setTargetAtTime(0, end, FADE_SECONDS / 3);
          source.stop(end + 2 * FADE_SECONDS);
          source.onended = () => fade.disconnect();
        },
      };
    },
  };
}
