/** Web worker that gives stretches of long recordings, corrected and at the rate they are played at. */
import { paths } from '@plundra/contract';
import { decodeWhole } from '@plundra/core/formats';
import type { Contour } from '@plundra/core/reading';
import { createPieceReader, planPieces, type CorrectionSpec } from '@plundra/core/retune';
import { resample } from '@plundra/core/signal';
import { fetchSound } from './fetchSound.ts';

export interface LongSoundStretch {
  hash: string;
  /** Of the recording. */
  sampleRateHz: number;
  lengthSamples: number;
  outputHz: number;
  /** Whole seconds of the recording. */
  fromSeconds: number;
  toSeconds: number;
}

export type LongSoundRequest =
  /** What is laid over the recording of a track from now on. */
  | { type: 'correction'; key: string; spec: CorrectionSpec; contour: Contour | undefined }
  /** `key`: of the track whose correction is laid in; null: as recorded. */
  | ({ type: 'stretch'; id: number; key: string | null } & LongSoundStretch);

/** Channels of `toSeconds − fromSeconds` at `outputHz`, or less where the recording ends. */
export type LongSoundAnswer = { id: number; channels: Float32Array[] } | { id: number; message: string };

type ReadSamples = (fromSample: number, toSample: number) => Promise<Float32Array[]>;
interface Known {
  spec: CorrectionSpec;
  contour: Contour | undefined;
  read: ReadSamples | undefined;
}

/** Around a stretch, so that resampling does not begin with silence. A whole number, as the stretch is. */
const MARGIN_SECONDS = 1;

const corrections = new Map<string, Known>();

const recorded =
  (hash: string): ReadSamples =>
  async (fromSample, toSample) => {
    const bytes = await fetchSound(
      paths.recordingRange(hash, fromSample, toSample),
      'A stretch of a long recording could not be fetched. Check that the server runs, and play again.',
    );
    return (await decodeWhole([new Uint8Array(bytes)])).samples;
  };

function readerOf(key: string | null, { hash, sampleRateHz, lengthSamples }: LongSoundStretch): ReadSamples {
  const known = key === null ? undefined : corrections.get(key);
  if (!known) return recorded(hash);
  known.read ??= createPieceReader(
    planPieces(known.spec, known.contour, { sampleRateHz, length: lengthSamples }, 0, lengthSamples),
    recorded(hash),
  );
  return known.read;
}

async function stretchOf(key: string | null, stretch: LongSoundStretch): Promise<Float32Array[]> {
  const { sampleRateHz, lengthSamples, outputHz, fromSeconds, toSeconds } = stretch;
  const firstSeconds = Math.max(0, fromSeconds - MARGIN_SECONDS);
  const channels = await readerOf(key, stretch)(
    firstSeconds * sampleRateHz,
    Math.min(lengthSamples, (toSeconds + MARGIN_SECONDS) * sampleRateHz),
  );
  const [from, to] = [fromSeconds, toSeconds].map((seconds) => (seconds - firstSeconds) * outputHz);
  return channels.map((channel) => resample(channel, sampleRateHz, outputHz).slice(from, to));
}

self.onmessage = ({ data }: MessageEvent<LongSoundRequest>) => {
  if (data.type === 'correction') {
    corrections.set(data.key, { spec: data.spec, contour: data.contour, read: undefined });
    return;
  }
  const { id, key, ...stretch } = data;
  stretchOf(key, stretch).then(
    (channels) => {
      const answer: LongSoundAnswer = { id, channels };
      self.postMessage(answer, { transfer: channels.map((channel) => channel.buffer) });
    },
    (error: unknown) => {
      const answer: LongSoundAnswer = {
        id,
        message: error instanceof Error ? error.message : String(error),
      };
      self.postMessage(answer);
    },
  );
};
