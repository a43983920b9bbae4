/**
 * Sound files as streams of samples: WAV by our own reader, FLAC, MP3 and Ogg Vorbis by WebAssembly decoders.
 * The format is told by the first bytes, never by the name. What can be read of a damaged file is given out, with
 * a warning.
 */
import { FLACDecoder } from '@wasm-audio-decoders/flac';
import { OggVorbisDecoder } from '@wasm-audio-decoders/ogg-vorbis';
import { MPEGDecoder } from 'mpg123-decoder';
import { AudioFormatError } from './audioErrors.ts';
import { joinBytes } from './bytes.ts';
import { ascii, createWavHeaderReader, decodeWavFrames, type WavHeader } from './wav.ts';

export type AudioFormat = 'wav' | 'flac' | 'mp3' | 'ogg';

export interface AudioBlock {
  sampleRateHz: number;
  /** One array a channel, equal lengths. */
  channels: Float32Array[];
}

export interface AudioSummary {
  format: AudioFormat;
  sampleRateHz: number;
  channels: number;
  frames: number;
  durationSeconds: number;
  /** Sentences about what could not be read. */
  warnings: string[];
}

/** Enough to tell the format. */
const SNIFF_BYTES = 64;
/** Half a day. A spoiled or made-up file of a few bytes can go on for years. */
const LONGEST_SECONDS = 12 * 3600;

interface Engine {
  push(bytes: Uint8Array): Promise<AudioBlock | undefined>;
  finish(): Promise<{ block: AudioBlock | undefined; promisedFrames?: number }>;
  free(): void;
}

/**
 * Decodes a file given as pieces of bytes and hands each block of samples to `onBlock`. Throws
 * {@link AudioFormatError} when nothing can be read.
 */
export async function decodeAudio(
  pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  onBlock: (block: AudioBlock) => void | Promise<void>,
): Promise<AudioSummary> {
  let engine: Engine | undefined;
  let format: AudioFormat | undefined;
  let waiting: Uint8Array = new Uint8Array(0);
  let first: { sampleRateHz: number; channels: number } | undefined;
  let frames = 0;
  let received = 0;
  const warnings: string[] = [];

  const take = async (block: AudioBlock | undefined) => {
    if (!block || block.channels.length === 0 || block.channels[0].length === 0) return;
    first ??= { sampleRateHz: block.sampleRateHz, channels: block.channels.length };
    frames += block.channels[0].length;
    if (frames > LONGEST_SECONDS * first.sampleRateHz)
      throw new AudioFormatError(
        'too_long',
        `This recording is longer than ${LONGEST_SECONDS / 3600} hours, or its data says so by mistake. Cut it into pieces and import those.`,
      );
    await onBlock(block);
  };
  const start = async (): Promise<Engine> => {
    format = sniffFormat(waiting);
    return createEngine(format);
  };

  /** An error of the decoder. Errors of `onBlock` are passed on as they are. */
  let broken: unknown;
  const decode = async (bytes: Uint8Array): Promise<void> => {
    let block: AudioBlock | undefined;
    try {
      block = await engine!.push(bytes);
    } catch (error) {
      broken = error;
    }
    await take(block);
  };

  try {
    for await (const piece of pieces) {
      received += piece.length;
      if (!engine) waiting = joinBytes(waiting, piece);
      if (!engine && waiting.length < SNIFF_BYTES) continue;
      const first = !engine;
      engine ??= await start();
      await decode(first ? waiting : piece);
      if (broken) break;
    }
    if (received === 0) {
      throw new AudioFormatError(
        'empty',
        'This file is empty: it holds no bytes at all. Choose another file, or export it again.',
      );
    }
    if (!engine) {
      engine = await start();
      await decode(waiting);
    }
    let promisedFrames: number | undefined;
    let last: AudioBlock | undefined;
    try {
      const end = await engine.finish();
      last = end.block;
      promisedFrames = end.promisedFrames;
    } catch (error) {
      broken ??= error;
    }
    await take(last);
    if (!first || frames === 0) {
      if (broken instanceof AudioFormatError) throw broken;
      throw new AudioFormatError(
        'no_samples',
        `This ${format!.toUpperCase()} file holds no sound that can be read. Choose another file, or export it again.`,
      );
    }
    const durationSeconds = frames / first.sampleRateHz;
    if (promisedFrames !== undefined && frames < promisedFrames * 0.999) {
      warnings.push(
        `This file ends in the middle of its data: ${seconds(durationSeconds)} of ${seconds(promisedFrames / first.sampleRateHz)} could be read. Use what is there, or choose another file.`,
      );
    } else if (broken) {
      warnings.push(
        `This file is damaged: only its first ${seconds(durationSeconds)} could be read. Use what is there, or choose another file.`,
      );
    }
    return { format: format!, ...first, frames, durationSeconds, warnings };
  } finally {
    engine?.free();
  }
}

/** Tells the format by the first bytes. Throws for everything that is not one of the four. */
export function sniffFormat(bytes: Uint8Array): AudioFormat {
  const head = ascii(bytes, 0, Math.min(12, bytes.length));
  if ((head.startsWith('RIFF') || head.startsWith('RF64')) && head.slice(8, 12) === 'WAVE') return 'wav';
  if (head.startsWith('fLaC')) return 'flac';
  if (head.startsWith('OggS')) return 'ogg';
  if (head.startsWith('ID3') || (bytes[0] === 0xff && (bytes[1] & 0xe6) === 0xe2)) return 'mp3';
  throw new AudioFormatError(
    'unknown_format',
    'This is not a sound file that can be read: its first bytes are neither WAV, FLAC, MP3 nor Ogg. Export the sound in one of these and choose it again.',
  );
}

function createEngine(format: AudioFormat): Promise<Engine> {
  switch (format) {
    case 'wav':
      return Promise.resolve(wavEngine());
    case 'flac':
      return flacEngine();
    case 'mp3':
      return libraryEngine(new MPEGDecoder({ enableGapless: true }));
    case 'ogg':
      return libraryEngine(new OggVorbisDecoder());
  }
}

interface Decoded {
  channelData: Float32Array[];
  samplesDecoded: number;
  sampleRate: number;
}
interface LibraryDecoder {
  ready: Promise<void>;
  decode(bytes: Uint8Array): Decoded | Promise<Decoded>;
  flush?(): Promise<Decoded>;
  free(): void;
}

async function libraryEngine(decoder: LibraryDecoder): Promise<Engine> {
  await decoder.ready;
  const toBlock = (out: Decoded): AudioBlock | undefined =>
    out.samplesDecoded > 0 ? { sampleRateHz: out.sampleRate, channels: out.channelData } : undefined;
  return {
    push: (bytes) => asFormatError(async () => toBlock(await decoder.decode(bytes))),
    finish: () =>
      asFormatError(async () => ({ block: decoder.flush ? toBlock(await decoder.flush()) : undefined })),
    free: () => decoder.free(),
  };
}

/** A library's own message about a damaged file means nothing to a user. */
async function asFormatError<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch {
    throw new AudioFormatError(
      'damaged',
      'This file is damaged: what is in it cannot be decoded. Choose another file, or export it again.',
    );
  }
}

/** FLAC says in its header how many samples to expect (RFC 9639, STREAMINFO). */
async function flacEngine(): Promise<Engine> {
  const engine = await libraryEngine(new FLACDecoder());
  let head: Uint8Array | undefined;
  return {
    ...engine,
    push(bytes) {
      head ??= bytes.slice(0, 42);
      return engine.push(bytes);
    },
    async finish() {
      const { block } = await engine.finish();
      return { block, promisedFrames: head && flacTotalFrames(head) };
    },
  };
}

function flacTotalFrames(head: Uint8Array): number | undefined {
  if (head.length < 26) return undefined;
  const total =
    (head[21] & 0x0f) * 2 ** 32 + (((head[22] << 24) | (head[23] << 16) | (head[24] << 8) | head[25]) >>> 0);
  return total > 0 ? total : undefined;
}

function wavEngine(): Engine {
  const reader = createWavHeaderReader();
  let header: WavHeader | undefined;
  let pending: Uint8Array = new Uint8Array(0);
  let left = Infinity;
  let dataBytes = 0;
  const frameBytes = () => (header!.bitsPerSample / 8) * header!.channels;
  return {
    async push(bytes) {
      if (header) pending = joinBytes(pending, bytes);
      else {
        const found = reader.push(bytes);
        if (!found) return undefined;
        header = found.header;
        pending = found.rest;
        left = header.dataBytes;
      }
      const whole = Math.floor(Math.min(pending.length, left) / frameBytes()) * frameBytes();
      if (whole === 0) return undefined;
      const channels = decodeWavFrames(pending.subarray(0, whole), header);
      pending = pending.slice(whole);
      left -= whole;
      dataBytes += whole;
      return { sampleRateHz: header.sampleRateHz, channels };
    },
    async finish() {
      if (!header) {
        throw new AudioFormatError(
          'damaged',
          'This WAV file breaks off before its first sample. Choose another file, or export it again.',
        );
      }
      const promised = Number.isFinite(header.dataBytes) ? header.dataBytes : dataBytes;
      return { block: undefined, promisedFrames: promised / frameBytes() };
    },
    free: () => undefined,
  };
}

/** Mean of all channels. */
export function mixToMono(channels: readonly Float32Array[]): Float32Array {
  if (channels.length === 1) return channels[0];
  const mono = new Float32Array(channels[0].length);
  for (const channel of channels) for (let i = 0; i < mono.length; i++) mono[i] += channel[i];
  for (let i = 0; i < mono.length; i++) mono[i] /= channels.length;
  return mono;
}

function seconds(value: number): string {
  return `${value.toFixed(1)} s`;
}
