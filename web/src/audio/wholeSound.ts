/** A recording that is held decoded, with corrections laid into a copy. */
import { FADE_SECONDS, type RecordingSound } from './recordingSounds.ts';
import type { RecordingTrack } from './playlist.ts';

export function createWholeSound(context: AudioContext, sound: AudioBuffer): RecordingSound {
  /** The last that was made for each track. */
  const patched = new Map<string, { version: number; buffer: AudioBuffer }>();

  const corrected = ({ key, correction }: RecordingTrack): AudioBuffer => {
    if (!correction || correction.patches.length === 0) return sound;
    const known = patched.get(key);
    if (known?.version === correction.version) return known.buffer;
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
    prepare: (track) => Promise.resolve(corrected(track)),
    start(track, { at, fromSeconds, lengthSeconds, output, fadeIn }) {
      const source = context.createBufferSource();
      const fade = context.createGain();
      source.buffer = corrected(track);
      source.connect(fade).connect(output);
      if (fadeIn) {
        fade.gain.setValueAtTime(0, at);
        fade.gain.linearRampToValueAtTime(1, at + FADE_SECONDS);
      }
      source.start(at, fromSeconds, lengthSeconds);
      return (when) => {
        const end = Math.max(when, context.currentTime);
        fade.gain.setTargetAtTime(0, end, FADE_SECONDS / 3);
        source.stop(end + 2 * FADE_SECONDS);
        source.onended = () => fade.disconnect();
      };
    },
  };
}
