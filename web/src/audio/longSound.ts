/** A recording that is too long to be held: played in pieces that a worker fetches, corrects and resamples ahead of time. */
import type { Recording } from '@plundra/contract';
import type { LongSoundAnswer, LongSoundRequest, LongSoundStretch } from './longSoundWorker.ts';
import type { Later } from './later.ts';
import { envelopeOf, FADE_SECONDS, followEnvelope } from './envelope.ts';
import type { RecordingSound } from './recordingSounds.ts';
import type { RecordingTrack } from './playlist.ts';

/** Whole seconds, so that pieces meet at a sample at any rate. */
const PIECE_SECONDS = 20;
/** How long before it sounds a piece is asked for. */
const AHEAD_SECONDS = 12;
/** Pieces that are kept: what plays, what comes next, and what a loop goes back to. */
const KEPT_PIECES = 8;
/** A piece that should sound already begins this much later, so that it is ready in time. */
const LATE_SECONDS = 0.01;

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
  context: BaseAudioContext,
  { hash, sampleRateHz, durationSeconds }: Recording,
  source: LongSoundSource,
  later: Later,
  problem: (error: unknown) => void,
): RecordingSound {
  const pieces = new Map<string, Promise<AudioBuffer>>();
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

  return {
    decoded: undefined,
    prepare: (track, fromSeconds) => pieceOf(track, Math.floor(fromSeconds / PIECE_SECONDS)),
    start(track, { at, fromSeconds, lengthSeconds, output, fadeIn }) {
      // On the grid of samples, so that one piece goes on where the one before ends.
      const onGrid = (seconds: number) => Math.round(seconds * sampleRate) / sampleRate;
      const [begin, first] = [onGrid(at), onGrid(fromSeconds)];
      const end = Math.min(first + lengthSeconds, durationSeconds);
      const fade = context.createGain();
      fade.connect(output);
      const envelope = envelopeOf(track, durationSeconds);
      followEnvelope(fade.gain, envelope, first, begin, fadeIn);
      let stopped = false;
      let cancel = () => undefined as void;
      let sounding: AudioBufferSourceNode[] = [];

      const play = async (k: number): Promise<void> => {
        const buffer = await pieceOf(track, k);
        if (stopped) return;
        const pieceFrom = k * PIECE_SECONDS;
        const from = Math.max(first, pieceFrom);
        const to = Math.min(end, pieceFrom + PIECE_SECONDS);
        const due = begin + from - first;
        const late = Math.max(0, onGrid(context.currentTime + LATE_SECONDS - due));
        // After a gap the sound would begin with a click.
        if (late > 0) {
          fade.gain.cancelScheduledValues(due + late);
          followEnvelope(fade.gain, envelope, from + late, due + late, true);
        }
        if (from + late < to) {
          const node = context.createBufferSource();
          node.buffer = buffer;
          node.connect(fade);
          node.start(due + late, from + late - pieceFrom, to - from - late);
          node.onended = () => (sounding = sounding.filter((each) => each !== node));
          sounding.push(node);
        }
        if (to >= end) return;
        cancel = later(begin + to - first - AHEAD_SECONDS, () => play(k + 1).catch(problem));
      };
      cancel = later(0, () => play(Math.floor(first / PIECE_SECONDS)).catch(problem));

      return {
        stop(when) {
          const stopAt = Math.max(when, context.currentTime);
          fade.gain.cancelScheduledValues(stopAt);
          fade.gain.setTargetAtTime(0, stopAt, FADE_SECONDS / 3);
          sounding.forEach((node) => node.stop(stopAt + 2 * FADE_SECONDS));
          stopped = true;
          cancel();
        },
      };
    },
  };
}
