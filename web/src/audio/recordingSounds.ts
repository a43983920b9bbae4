/** The sound of recordings in the browser: decoded, or streamed where they are long, and with corrections laid in. */
import { paths } from '@plundra/contract';
import { fetchSound } from './fetchSound.ts';
import type { RecordingTrack } from './playlist.ts';

export type RecordingSound = AudioBuffer | HTMLAudioElement;

export interface RecordingSounds {
  /** Fetched and decoded once. */
  get(hash: string, durationSeconds: number): Promise<RecordingSound>;
  /** The sound of a track with its correction laid in; the last one made is kept. */
  corrected(track: RecordingTrack, sound: AudioBuffer): AudioBuffer;
}

/** Recordings longer than this are streamed instead of decoded whole. */
const LONGEST_DECODED_SECONDS = 1200;

/** `outputOf` names where a streamed recording sounds. */
export function createRecordingSounds(
  context: () => AudioContext,
  outputOf: (hash: string) => AudioNode,
): RecordingSounds {
  const sounds = new Map<string, Promise<RecordingSound>>();
  const patched = new Map<string, { version: number; buffer: AudioBuffer }>();

  const decode = async (hash: string): Promise<AudioBuffer> => {
    const bytes = await fetchSound(
      paths.recordingSound(hash),
      'A recording could not be fetched, so it stays silent. Check that the server runs.',
    );
    try {
      return await context().decodeAudioData(bytes);
    } catch {
      throw new Error(
        'This browser cannot play one of the recordings; it can still be read. Import it as 16-bit WAV to hear it.',
      );
    }
  };

  const stream = (hash: string): HTMLAudioElement => {
    const element = new Audio(paths.recordingSound(hash));
    element.preload = 'auto';
    context().createMediaElementSource(element).connect(outputOf(hash));
    return element;
  };

  return {
    get(hash, durationSeconds) {
      let loading = sounds.get(hash);
      if (!loading) {
        loading = durationSeconds > LONGEST_DECODED_SECONDS ? Promise.resolve(stream(hash)) : decode(hash);
        sounds.set(hash, loading);
        loading.catch(() => sounds.delete(hash));
      }
      return loading;
    },
    corrected(track, sound) {
      const { correction } = track;
      if (!correction || correction.patches.length === 0) return sound;
      const known = patched.get(track.key);
      if (known?.version === correction.version) return known.buffer;
      const buffer = context().createBuffer(sound.numberOfChannels, sound.length, sound.sampleRate);
      for (let c = 0; c < sound.numberOfChannels; c++) {
        const channel = buffer.getChannelData(c);
        sound.copyFromChannel(channel, c);
        for (const patch of correction.patches) channel.set(patch.channels[c], patch.start);
      }
      patched.set(track.key, { version: correction.version, buffer });
      return buffer;
    },
  };
}
