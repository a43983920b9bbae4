/**
 * RIFF/WAVE reading and writing (Microsoft "Multimedia Programming Interface" 1991; WAVE_FORMAT_EXTENSIBLE;
 * RF64 of EBU Tech 3306 for files beyond 4 GB). Reading works on a stream: the header first, then samples as
 * they come.
 */
import { AudioFormatError } from './audioErrors.ts';
import { joinAll, joinBytes } from './bytes.ts';

export interface WavFormat {
  sampleRateHz: number;
  channels: number;
  bitsPerSample: number;
  float: boolean;
}

/** `dataBytes` is what the header promises; Infinity when it does not say. */
export interface WavHeader extends WavFormat {
  dataBytes: number;
}

const PCM = 1;
const IEEE_FLOAT = 3;
const EXTENSIBLE = 0xfffe;
const UNKNOWN_SIZE = 0xffffffff;

/** A header may carry pictures and notes before the samples, but not without end. */
const LONGEST_HEADER_BYTES = 16 * 1024 * 1024;
/** Chunks that are read are small; of all others only the length matters. */
const LONGEST_CHUNK_BYTES = 1024;
const CHUNK_HEAD_BYTES = 8;
const FILE_HEAD_BYTES = 12;

/**
 * Reads a header from pieces of a file, forwards and once: what is passed is not looked at again. `push` gives the header
 * when it is whole, with the bytes behind it. Throws {@link AudioFormatError}.
 */
export function createWavHeaderReader(): {
  push(piece: Uint8Array): { header: WavHeader; rest: Uint8Array } | undefined;
} {
  let format: WavFormat | undefined;
  let largeDataBytes: number | undefined;
  /** Bytes to skip, and bytes kept until there are enough of them. */
  let skip = FILE_HEAD_BYTES;
  let kept: Uint8Array = new Uint8Array(0);
  let passed = 0;

  return {
    push(piece) {
      let bytes = piece;
      if (skip > 0) {
        const skipped = Math.min(skip, bytes.length);
        skip -= skipped;
        passed += skipped;
        bytes = bytes.subarray(skipped);
      }
      bytes = kept.length > 0 ? joinBytes(kept, bytes) : bytes;
      kept = new Uint8Array(0);
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
      let at = 0;
      while (at + CHUNK_HEAD_BYTES <= bytes.length) {
        const chunk = ascii(bytes, at, 4);
        const size = view.getUint32(at + 4, true);
        const body = at + CHUNK_HEAD_BYTES;
        if (chunk === 'data') {
          if (!format)
            throw new AudioFormatError(
              'damaged',
              'This WAV file has no description of its samples before them, so it cannot be read. Export it again from the program it came from.',
            );
          const promised = size === UNKNOWN_SIZE ? (largeDataBytes ?? Infinity) : size;
          // Recorders that were cut off leave 0: take what is there.
          const dataBytes = promised === 0 ? Infinity : promised;
          return { header: { ...format, dataBytes }, rest: bytes.subarray(body) };
        }
        const wanted = (chunk === 'fmt ' || chunk === 'ds64') && size <= LONGEST_CHUNK_BYTES;
        if (wanted && body + size > bytes.length) break;
        if (wanted && chunk === 'fmt ') format = parseFormat(view, body, size);
        if (wanted && chunk === 'ds64' && size >= 16)
          largeDataBytes = view.getUint32(body + 8, true) + view.getUint32(body + 12, true) * 2 ** 32;
        const end = body + size + (size % 2);
        if (passed + end > LONGEST_HEADER_BYTES)
          throw new AudioFormatError(
            'damaged',
            'This WAV file has no samples where they should be. Export it again from the program it came from.',
          );
        if (end > bytes.length) {
          passed += bytes.length;
          skip = end - bytes.length;
          return undefined;
        }
        at = end;
      }
      passed += at;
      kept = bytes.slice(at);
      return undefined;
    },
  };
}

function parseFormat(view: DataView, at: number, size: number): WavFormat {
  if (size < 16)
    throw new AudioFormatError(
      'damaged',
      'The header of this WAV file is cut short. Export it again from the program it came from.',
    );
  let tag = view.getUint16(at, true);
  const format = {
    channels: view.getUint16(at + 2, true),
    sampleRateHz: view.getUint32(at + 4, true),
    bitsPerSample: view.getUint16(at + 14, true),
  };
  if (tag === EXTENSIBLE && size >= 40) tag = view.getUint16(at + 24, true);
  const float = tag === IEEE_FLOAT;
  const bits = format.bitsPerSample;
  const known = float ? bits === 32 || bits === 64 : tag === PCM && [8, 16, 24, 32].includes(bits);
  if (!known) {
    throw new AudioFormatError(
      'unsupported',
      `This WAV file is coded in a way that cannot be read (type ${tag}, ${bits} bits). Export it as plain 16- or 24-bit WAV.`,
    );
  }
  if (
    format.channels < 1 ||
    format.channels > 64 ||
    format.sampleRateHz < 1000 ||
    format.sampleRateHz > 768000
  ) {
    throw new AudioFormatError(
      'damaged',
      `The header of this WAV file is not believable (${format.channels} channels at ${format.sampleRateHz} Hz). Export it again from the program it came from.`,
    );
  }
  return { ...format, float };
}

/** Whole sample frames of a piece of data, one array a channel, values −1…1 (floats as they are). */
export function decodeWavFrames(bytes: Uint8Array, format: WavFormat): Float32Array[] {
  const { channels, bitsPerSample, float } = format;
  const width = bitsPerSample / 8;
  const frames = Math.floor(bytes.length / (width * channels));
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const read = sampleReader(view, bitsPerSample, float);
  return Array.from({ length: channels }, (_, channel) => {
    const out = new Float32Array(frames);
    const stride = width * channels;
    for (let i = 0, at = channel * width; i < frames; i++, at += stride) out[i] = read(at);
    return out;
  });
}

function sampleReader(view: DataView, bits: number, float: boolean): (at: number) => number {
  if (float) return bits === 32 ? (at) => view.getFloat32(at, true) : (at) => view.getFloat64(at, true);
  switch (bits) {
    case 8:
      return (at) => (view.getUint8(at) - 128) / 128;
    case 16:
      return (at) => view.getInt16(at, true) / 32768;
    case 24:
      return (at) => (view.getInt8(at + 2) * 65536 + view.getUint16(at, true)) / 8388608;
    default:
      return (at) => view.getInt32(at, true) / 2147483648;
  }
}

/** How samples are kept: whole numbers of 16 or 24 bits, or 32-bit float. */
export type WavSamples = 16 | 24 | 'float';

/** A WAV file; as whole numbers, values beyond ±1 are clipped. Channels have equal lengths. */
export function encodeWav(
  channels: Float32Array[],
  sampleRateHz: number,
  samples: WavSamples = 16,
): Uint8Array {
  const frames = channels[0]?.length ?? 0;
  const float = samples === 'float';
  const head = wavHead(
    { channels: channels.length, sampleRateHz, bitsPerSample: float ? 32 : samples, float },
    frames,
  );
  return joinAll([head, encodeWavFrames(channels, samples)]);
}

/** The header of a WAV file of so many sample frames; lengths beyond 4 GB are left open. */
export function wavHead(
  { channels, sampleRateHz, bitsPerSample, float }: WavFormat,
  frames: number,
): Uint8Array {
  const frameBytes = channels * (bitsPerSample / 8);
  const dataBytes = frames * frameBytes;
  const length = (bytes: number) => Math.min(bytes, UNKNOWN_SIZE);
  const bytes = new Uint8Array(44);
  const view = new DataView(bytes.buffer);
  const text = (at: number, value: string) =>
    [...value].forEach((char, i) => (bytes[at + i] = char.charCodeAt(0)));
  text(0, 'RIFF');
  view.setUint32(4, length(36 + dataBytes), true);
  text(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, float ? IEEE_FLOAT : PCM, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, sampleRateHz, true);
  view.setUint32(28, sampleRateHz * frameBytes, true);
  view.setUint16(32, frameBytes, true);
  view.setUint16(34, bitsPerSample, true);
  text(36, 'data');
  view.setUint32(40, length(dataBytes), true);
  return bytes;
}

/**
 * Sample frames as they stand in a file. Full scale is a power of two, as it is when they are read: what was recorded in as
 * many bits comes out as it was.
 */
export function encodeWavFrames(channels: readonly Float32Array[], samples: WavSamples): Uint8Array {
  const frames = channels[0]?.length ?? 0;
  const width = samples === 'float' ? 4 : samples / 8;
  const bytes = new Uint8Array(frames * channels.length * width);
  const view = new DataView(bytes.buffer);
  const fullScale = samples === 'float' ? 1 : 2 ** (samples - 1);
  let at = 0;
  for (let i = 0; i < frames; i++) {
    for (const channel of channels) {
      if (samples === 'float') view.setFloat32(at, channel[i], true);
      else {
        const whole = Math.max(-fullScale, Math.min(fullScale - 1, Math.round(channel[i] * fullScale)));
        if (samples === 16) view.setInt16(at, whole, true);
        else {
          view.setUint16(at, whole & 0xffff, true);
          view.setInt8(at + 2, whole >> 16);
        }
      }
      at += width;
    }
  }
  return bytes;
}

export function ascii(bytes: Uint8Array, at: number, length: number): string {
  return String.fromCharCode(...bytes.subarray(at, at + length));
}
