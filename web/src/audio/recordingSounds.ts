/** The sound of recordings in the browser: decoded whole, or in pieces where they are long; with corrections laid in. */
import { paths } from '@plundra/contract';
import { api } from '../api/client.ts';
import { fetchSound } from './fetchSound.ts';
import type { Later } from './later.ts';
import { createLongSound, createLongSoundSource } from './longSound.ts';
import type { RecordingTrack } from './playlist.ts';
import { createStreams } from './streamedSound.ts';
import { createWholeSound } from './wholeSound.ts';

/** What was started. */
export interface Sounding {
  /** Ends it at a context time. */
  stop(at: number): void;
  /** Of one that can go on until what replaces it is there, which says so at this port. */
  replacedBy?(): MessagePort;
}

/** What is to sound of a recording. */
export interface SoundingStretch {
  /** Context time. */
  at: number;
  /** Of the recording. */
  fromSeconds: number;
  lengthSeconds: number;
  output: AudioNode;
  /** Whether it begins in the middle of the sound, which would click. */
  fadeIn: boolean;
  /** It goes on for this one. */
  replaces?: Sounding;
}

export interface RecordingSound {
  /** The decoded sound; undefined where it is too long to be held. */
  decoded: AudioBuffer | undefined;
  /** Gets ready what a track needs to sound at once from a second of the recording on. */
  prepare(track: RecordingTrack, fromSeconds: number): Promise<unknown>;
  start(track: RecordingTrack, stretch: SoundingStretch): Sounding;
}

export interface RecordingSounds {
  /** Fetched once. */
  get(hash: string): Promise<RecordingSound>;
  /** One that is there already: what sounds now need not wait for its turn. */
  ready(hash: string): RecordingSound | undefined;
  /** Resolves when all is there that sounds until a context time, for a context that can wait. */
  fed(untilSeconds: number): Promise<unknown>;
  close(): void;
}

/** Recordings longer than this are not held whole. */
const LONGEST_DECODED_SECONDS = 1200;

export function createRecordingSounds(
  context: () => BaseAudioContext,
  later: Later,
  problem: (error: unknown) => void,
): RecordingSounds {
  const sounds = new Map<string, Promise<RecordingSound>>();
  const there = new Map<string, RecordingSound>();
  const long = createLongSoundSource();
  const streams = createStreams(context, problem);

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

  const load = async (hash: string): Promise<RecordingSound> => {
    const recording = await api.recording(hash);
    if (recording.durationSeconds > LONGEST_DECODED_SECONDS)
      return createLongSound(context(), recording, long, later, problem);
    const [sound] = await Promise.all([decode(hash), streams.load()]);
    return createWholeSound(context(), sound, streams);
  };

  return {
    get(hash) {
      let loading = sounds.get(hash);
      if (!loading) {
        loading = load(hash);
        sounds.set(hash, loading);
        loading.then(
          (sound) => there.set(hash, sound),
          () => sounds.delete(hash),
        );
      }
      return loading;
    },
    ready: (hash) => there.get(hash),
    fed: (untilSeconds) => streams.fed(untilSeconds),
    close: () => long.close(),
  };
}
