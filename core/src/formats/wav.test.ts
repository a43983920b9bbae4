import { describe, expect, it } from 'vitest';
import { AudioFormatError, decodeAudio, decodeWhole, encodeWav, mixToMono, sniffFormat } from './index.ts';

interface Layout {
  tag: number;
  bits: number;
  channels?: number;
  rate?: number;
  extensible?: boolean;
  dataSize?: number;
  extra?: boolean;
}

/** A WAV file written by hand after the published layout. */
function wavFile(layout: Layout, samples: (view: DataView) => void, dataBytes: number): Uint8Array {
  const { tag, bits, channels = 1, rate = 44100, extensible = false } = layout;
  const fmtSize = extensible ? 40 : 16;
  const extra = layout.extra ? 12 : 0;
  const bytes = new Uint8Array(12 + 8 + fmtSize + extra + 8 + dataBytes);
  const view = new DataView(bytes.buffer);
  const text = (at: number, value: string) =>
    [...value].forEach((char, i) => (bytes[at + i] = char.charCodeAt(0)));
  text(0, 'RIFF');
  view.setUint32(4, bytes.length - 8, true);
  text(8, 'WAVEfmt ');
  view.setUint32(16, fmtSize, true);
  view.setUint16(20, extensible ? 0xfffe : tag, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, rate, true);
  view.setUint16(32, (channels * bits) / 8, true);
  view.setUint16(34, bits, true);
  if (extensible) view.setUint16(44, tag, true);
  let at = 20 + fmtSize;
  if (extra) {
    text(at, 'LIST');
    view.setUint32(at + 4, 4, true);
    at += extra;
  }
  text(at, 'data');
  view.setUint32(at + 4, layout.dataSize ?? dataBytes, true);
  samples(new DataView(bytes.buffer, at + 8));
  return bytes;
}

async function decode(bytes: Uint8Array, pieceBytes = 1 << 20) {
  const blocks: Float32Array[][] = [];
  const pieces = Array.from({ length: Math.ceil(bytes.length / pieceBytes) }, (_, i) =>
    bytes.subarray(i * pieceBytes, (i + 1) * pieceBytes),
  );
  const summary = await decodeAudio(pieces, (block) => void blocks.push(block.channels));
  const channels = (blocks[0] ?? []).map((_, c) =>
    Float32Array.from(blocks.flatMap((block) => [...block[c]])),
  );
  return { summary, channels };
}

describe('WAV', () => {
  it.each<[string, Layout, (view: DataView, at: number, value: number) => void]>([
    ['8 bit', { tag: 1, bits: 8 }, (view, at, value) => view.setUint8(at, Math.round(value * 128 + 128))],
    ['16 bit', { tag: 1, bits: 16 }, (view, at, value) => view.setInt16(at, value * 32768, true)],
    [
      '24 bit',
      { tag: 1, bits: 24 },
      (view, at, value) => {
        const whole = Math.round(value * 8388608);
        view.setUint16(at, whole & 0xffff, true);
        view.setInt8(at + 2, whole >> 16);
      },
    ],
    ['32 bit', { tag: 1, bits: 32 }, (view, at, value) => view.setInt32(at, value * 2147483648, true)],
    ['32-bit float', { tag: 3, bits: 32 }, (view, at, value) => view.setFloat32(at, value, true)],
    ['64-bit float', { tag: 3, bits: 64 }, (view, at, value) => view.setFloat64(at, value, true)],
    [
      '24-bit extensible with a chunk before',
      { tag: 1, bits: 24, extensible: true, extra: true },
      (view, at, value) => {
        const whole = Math.round(value * 8388608);
        view.setUint16(at, whole & 0xffff, true);
        view.setInt8(at + 2, whole >> 16);
      },
    ],
  ])('reads %s', async (_, layout, write) => {
    const values = [0, 0.5, -0.5, 0.25, -1, 0.75];
    const width = layout.bits / 8;
    const bytes = wavFile(
      layout,
      (view) => values.forEach((value, i) => write(view, i * width, value)),
      values.length * width,
    );
    const { summary, channels } = await decode(bytes);
    expect(summary).toMatchObject({
      format: 'wav',
      sampleRateHz: 44100,
      channels: 1,
      frames: 6,
      warnings: [],
    });
    values.forEach((value, i) => expect(channels[0][i]).toBeCloseTo(value, layout.bits === 8 ? 2 : 5));
  });

  it('reads eight channels, in pieces that split samples', async () => {
    const data = Array.from({ length: 8 }, (_, c) =>
      Float32Array.from({ length: 500 }, (_, i) => Math.sin(i / 9) * (c / 8)),
    );
    const { channels, summary } = await decode(encodeWav(data, 8000, 'float'), 37);
    expect(summary).toMatchObject({ channels: 8, frames: 500, sampleRateHz: 8000 });
    expect(channels[7][123]).toBeCloseTo(data[7][123], 6);
    expect(mixToMono(channels)[123]).toBeCloseTo(data.reduce((sum, channel) => sum + channel[123], 0) / 8, 5);
  });

  it('can be held whole', async () => {
    const two = [0.25, -0.5].map((value) => new Float32Array(30000).fill(value));
    const pieces = [...Array(9).keys()].map((i) =>
      encodeWav(two, 8000, 'float').slice(i * 30000, (i + 1) * 30000),
    );
    const { samples, channels, frames } = await decodeWhole(pieces);
    expect({ channels, frames }).toEqual({ channels: 2, frames: 30000 });
    expect(samples).toEqual(two);
  });

  it('gives out what a truncated file holds, and says how much', async () => {
    const whole = encodeWav([new Float32Array(44100 * 4).fill(0.1)], 44100);
    const { summary } = await decode(whole.slice(0, 44 + 44100 * 2));
    expect(summary.durationSeconds).toBeCloseTo(1);
    expect(summary.warnings[0]).toBe(
      'This file ends in the middle of its data: 1.0 s of 4.0 s could be read. Use what is there, or choose another file.',
    );
  });

  it('takes the rest of a file whose recorder never wrote the length', async () => {
    const bytes = wavFile({ tag: 1, bits: 16, dataSize: 0 }, (view) => view.setInt16(2, 8192, true), 8);
    const { summary, channels } = await decode(bytes);
    expect(summary).toMatchObject({ frames: 4, warnings: [] });
    expect(channels[0][1]).toBeCloseTo(0.25);
  });

  it.each([16, 24] as const)('comes out in %i bits as it was, from end to end of the scale', async (bits) => {
    const full = 2 ** (bits - 1);
    const wanted = Float32Array.from(
      [-full, -full / 2 - 1, -257, -1, 0, 1, 258, full / 2 + 1, full - 1],
      (x) => x / full,
    );
    const { channels, summary } = await decode(encodeWav([wanted], 44100, bits));
    expect(summary.frames).toBe(wanted.length);
    expect([...channels[0]]).toEqual([...wanted]);
  });

  it('clips what is too loud when writing 16 bits', async () => {
    const { channels } = await decode(encodeWav([Float32Array.from([2, -2, 0])], 44100));
    expect(channels[0][0]).toBeCloseTo(1, 3);
    expect(channels[0][1]).toBeCloseTo(-1, 3);
  });
});

describe('files that are no sound', () => {
  it.each<[string, Uint8Array, string]>([
    ['an empty file', new Uint8Array(0), 'empty'],
    [
      'text named .wav',
      new TextEncoder().encode('These are the words of the song, not its sound. '.repeat(5)),
      'unknown_format',
    ],
    ['a header without samples', encodeWav([new Float32Array(0)], 44100), 'no_samples'],
    ['a header cut short', encodeWav([new Float32Array(10)], 44100).slice(0, 30), 'damaged'],
    ['an unknown coding', wavFile({ tag: 85, bits: 16 }, () => undefined, 64), 'unsupported'],
    ['a rate of nothing', wavFile({ tag: 1, bits: 16, rate: 0 }, () => undefined, 64), 'damaged'],
    [
      'a FLAC mark and rubbish',
      Uint8Array.from([0x66, 0x4c, 0x61, 0x43, ...new Uint8Array(200)]),
      'no_samples',
    ],
  ])('%s is refused with a sentence', async (_, bytes, code) => {
    const error: unknown = await decode(bytes).catch((caught: unknown) => caught);
    expect(error).toBeInstanceOf(AudioFormatError);
    expect((error as AudioFormatError).code).toBe(code);
    expect((error as AudioFormatError).message).toMatch(/^[A-Z].*\.$/);
  });

  it('tells formats by their first bytes', () => {
    const mark = (text: string) => sniffFormat(new TextEncoder().encode(text.padEnd(16, ' ')));
    expect(mark('fLaC')).toBe('flac');
    expect(mark('OggS')).toBe('ogg');
    expect(mark('ID3')).toBe('mp3');
    expect(sniffFormat(Uint8Array.from([0xff, 0xfb, 0x90, 0]))).toBe('mp3');
    expect(mark('RF64....WAVE')).toBe('wav');
  });
});
