import { createRequire } from 'node:module';

/** The few calls of libFLAC's stream encoder that are used here. */
interface FlacLibrary {
  isReady(): boolean;
  on(event: 'ready', listener: () => void): void;
  create_libflac_encoder(
    rate: number,
    channels: number,
    bits: number,
    level: number,
    total: number,
    verify: boolean,
  ): number;
  init_encoder_stream(
    encoder: number,
    write: (bytes: Uint8Array) => void,
    metadata?: (data: unknown) => void,
  ): number;
  FLAC__stream_encoder_process_interleaved(encoder: number, samples: Int32Array, frames: number): boolean;
  FLAC__stream_encoder_finish(encoder: number): boolean;
  FLAC__stream_encoder_delete(encoder: number): void;
}

/** A mono 16-bit FLAC file of samples in −1…1. */
export async function encodeFlac(samples: Float32Array, sampleRateHz: number): Promise<Uint8Array> {
  const factory = createRequire(import.meta.url)('libflacjs') as (variant: string) => FlacLibrary;
  const flac = factory('release');
  if (!flac.isReady()) await new Promise<void>((resolve) => flac.on('ready', resolve));
  const encoder = flac.create_libflac_encoder(sampleRateHz, 1, 16, 8, samples.length, false);
  const pieces: Uint8Array[] = [];
  if (encoder === 0 || flac.init_encoder_stream(encoder, (bytes) => pieces.push(bytes.slice())) !== 0) {
    throw new Error('The FLAC encoder could not be started.');
  }
  const integers = Int32Array.from(samples, (value) => Math.round(Math.max(-1, Math.min(1, value)) * 32767));
  const ok = flac.FLAC__stream_encoder_process_interleaved(encoder, integers, samples.length);
  flac.FLAC__stream_encoder_finish(encoder);
  flac.FLAC__stream_encoder_delete(encoder);
  if (!ok) throw new Error('The FLAC encoder refused the samples.');
  // The length in samples is known at creation, so the header written first is already right.
  return Buffer.concat(pieces);
}
