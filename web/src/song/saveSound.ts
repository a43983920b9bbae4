/** The song as a sound file: what is heard, saved. */
import type { QueryClient } from '@tanstack/react-query';
import { encodeWav, type WavSamples } from '@plundra/core/formats';
import type { Song } from '@plundra/core/song';
import type { Corrections } from '../audio/corrections.ts';
import { buildTracks, type ListenChoice } from '../audio/playlist.ts';
import { renderSound } from '../audio/renderSound.ts';
import { asFollowed } from './asFollowed.ts';
import { readyCorrections } from './useCorrections.ts';

export interface SoundFileChoice {
  fromSeconds: number;
  toSeconds: number;
  /** Heard whether they are muted or not; null: what sounds now. */
  partIds: readonly string[] | null;
  sampleRateHz: number;
  samples: WavSamples;
}

export interface SoundFile {
  bytes: Uint8Array;
  /** Of the loudest sample against full scale; −Infinity: silence. */
  peakDb: number;
}

/** The song as a whole, whatever place one is in. */
const AS_A_WHOLE = {
  mode: 'both',
  blend: 0.5,
  focusPartId: null,
  againstPartId: null,
  before: false,
} as const;

export async function makeSoundFile(
  song: Song,
  listen: ListenChoice,
  queries: QueryClient,
  choice: SoundFileChoice,
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<SoundFile> {
  const { fromSeconds, toSeconds, sampleRateHz } = choice;
  const sounding = onlyParts(asFollowed(song), choice.partIds);
  let corrections: Corrections | undefined;
  const buffer = await renderSound({
    fromSeconds,
    toSeconds,
    sampleRateHz,
    progress,
    signal,
    async tracks(decoded) {
      corrections = await readyCorrections(sounding, queries, decoded, signal);
      return buildTracks(sounding, { ...listen, ...AS_A_WHOLE }, corrections.get());
    },
  }).finally(() => corrections?.close());
  const channels = Array.from({ length: buffer.numberOfChannels }, (_, c) => buffer.getChannelData(c));
  return {
    bytes: encodeWav(channels, sampleRateHz, choice.samples),
    peakDb: 20 * Math.log10(peakOf(channels)),
  };
}

function onlyParts(song: Song, partIds: readonly string[] | null): Song {
  if (!partIds) return song;
  const open = { mute: false, solo: false };
  const chosen = song.parts.filter(({ id }) => partIds.includes(id));
  return {
    ...song,
    parts: chosen.map((part) => ({ ...part, ...open })),
    ...(song.groups && { groups: song.groups.map((group) => ({ ...group, ...open })) }),
  };
}

function peakOf(channels: readonly Float32Array[]): number {
  let peak = 0;
  for (const channel of channels) for (const value of channel) peak = Math.max(peak, Math.abs(value));
  return peak;
}
