/** A recording that is too long to be held: played in pieces that a worker fetches, corrects and resamples ahead of time. */
import type { Recording } from '@plundra/contract';
import type { LongSoundAnswer, LongSoundRequest, LongSoundStretch } from './longSoundWorker.ts';
import { playInPieces, type PiecedSound, type PieceOutput } from './playInPieces.ts';
import type { RecordingSound } from './recordingSounds.ts';
import type { RecordingTrack } from './playlist.ts';

/** Whole seconds, so that pieces meet at a sample at any rate. */
const PIECE_SECONDS = 20;
/** Pieces are fetched. */
const AHEAD_SECONDS = 12;
/** Pieces that are kept: what plays, what comes next, and what a loop goes back to. */
const KEPT_PIECES = 8;

const NOT_HEARD =
  'A stretch of a long recording could not be played. Check that the server runs, and play again.';

export interface LongSoundSource {
  stretch(request: LongSoundStretch, track: RecordingTrack): Promise<Float32Array[]>;
  close(): void;
}

/** Asks a worker, which is started with the first question. */
export function createLongSoundSource(
  makeWorker = () => new Worker(new URL('./longSoundWorker.ts', import.meta.url), { type: 'module' }),
): LongSoundSource {
  let worker: Worker | undefined;
  let asked = 0;
  const waiting = new Map<number, { resolve(channels: Float32Array[]): void; reject(error: Error): void }>();
  /** The correction of each take that the worker knows. */
  const told = new Map<string, number>();

  const stop = () => {
    worker?.terminate();
    worker = undefined;
    told.clear();
    waiting.forEach(({ reject }) => reject(new Error(NOT_HEARD)));
    waiting.clear();
  };
  const start = () => {
    const made = makeWorker();
    made.onmessage = ({ data }: MessageEvent<LongSoundAnswer>) => {
      const question = waiting.get(data.id);
      waiting.delete(data.id);
      if ('message' in data) question?.reject(new Error(data.message));
      else question?.resolve(data.channels);
    };
    made.onerror = stop;
    return made;
  };

  return {
    stretch(request, { source: key, correction }) {
      worker ??= start();
      const post = (message: LongSoundRequest) => worker!.postMessage(message);
      if (correction?.inPieces && told.get(key) !== correction.version) {
        told.set(key, correction.version);
        post({ type: 'correction', key, ...correction.inPieces });
      }
      const id = ++asked;
      post({ type: 'stretch', id, key: correction?.inPieces ? key : null, ...request });
      return new Promise((resolve, reject) => waiting.set(id, { resolve, reject }));
    },
    close: stop,
  };
}

export function createLongSound(
  output: PieceOutput,
  { hash, sampleRateHz, durationSeconds }: Recording,
  source: LongSoundSource,
): RecordingSound {
  const pieces = new Map<string, Promise<AudioBuffer>>();
  const { context } = output;
  const { sampleRate } = context;

  const make = async (track: RecordingTrack, k: number): Promise<AudioBuffer> => {
    const channels = await source.stretch(
      {
        hash,
        sampleRateHz,
        lengthSamples: Math.round(durationSeconds * sampleRateHz),
        outputHz: sampleRate,
        fromSeconds: k * PIECE_SECONDS,
        toSeconds: (k + 1) * PIECE_SECONDS,
      },
      track,
    );
    const buffer = context.createBuffer(channels.length, channels[0].length, sampleRate);
    channels.forEach((channel, c) => buffer.getChannelData(c).set(channel));
    return buffer;
  };

  const pieceOf = (track: RecordingTrack, k: number): Promise<AudioBuffer> => {
    const corrected = track.correction?.inPieces !== undefined;
    const name = corrected ? `${k} ${track.source} ${track.correction!.version}` : String(k);
    const piece = pieces.get(name) ?? make(track, k);
    pieces.delete(name);
    pieces.set(name, piece);
    piece.catch(() => pieces.delete(name));
    if (pieces.size > KEPT_PIECES) pieces.delete(pieces.keys().next().value!);
    return piece;
  };

  const sound: PiecedSound = {
    durationSeconds,
    aheadSeconds: AHEAD_SECONDS,
    async pieceAt(track, seconds) {
      const k = Math.floor(seconds / PIECE_SECONDS);
      const buffer = await pieceOf(track, k);
      return { buffer, fromSeconds: k * PIECE_SECONDS, toSeconds: (k + 1) * PIECE_SECONDS };
    },
  };

  return {
    decoded: undefined,
    prepare: (track, fromSeconds) => sound.pieceAt(track, fromSeconds),
    start: (track, stretch) => playInPieces(output, sound, track, stretch),
  };
}
