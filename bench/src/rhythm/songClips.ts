/** Stretches of songs as sound: with everything that is played, without drums, or some of it alone. */
import { createRandom, type Random } from '@plundra/core/signal';
import { loadBank, mono, renderMidi, renderPart } from '@plundra/demo';
import { roughen } from '../clips/degrade.ts';
import { addNoise, addReverb } from '../clips/room.ts';
import { computedDrums } from './computedDrums.ts';
import type { Metre } from './patterns.ts';
import type { SongSet, WrittenSong } from './songs.ts';

type Bank = Awaited<ReturnType<typeof loadBank>>;

export interface SongClip {
  name: string;
  song: string;
  collection: string;
  samples: Float32Array;
  beats: number[];
  downbeats: number[];
  metre: Metre;
  /** What is left of the arrangement. */
  heard: string;
}

const RATE_HZ = 22050;
/** What a stretch must hold to say where its beats are. */
const LEAST_NOTES_HEARD = 24;

const SEEDS: Record<SongSet, number> = { tuning: 7_000_000, choosing: 9_000_000, test: 11_000_000 };
const BANKS: Record<SongSet, readonly Parameters<typeof loadBank>[0][]> = {
  tuning: ['FluidR3Mono_GM', 'MuseScore_General_Lite'],
  choosing: ['FluidR3Mono_GM', 'MuseScore_General_Lite'],
  test: ['TimGM6mb'],
};

/** One stretch of each song; every round others. Those of the test are whole arrangements as they were written. */
export async function* songClips(
  songs: readonly WrittenSong[],
  set: SongSet,
  round: number,
): AsyncGenerator<SongClip> {
  const banks = await Promise.all(BANKS[set].map((name) => loadBank(name)));
  for (const [i, song] of songs.entries()) {
    const bank = banks[(round + i) % banks.length];
    const clip = await songClip(song, bank, SEEDS[set] + 1000 * round + i, set === 'test');
    if (clip) yield clip;
  }
}

type Heard = 'all' | 'no drums' | 'drums' | 'rhythm section' | 'one part';
const HEARD: readonly (readonly [Heard, number])[] = [
  ['all', 0.45],
  ['no drums', 0.2],
  ['drums', 0.12],
  ['rhythm section', 0.1],
  ['one part', 0.13],
];
const BASSES = [32, 39] as const;
/** Of the tempo that was written: as much as a band would take it slower or quicker. */
const TEMPO_OCTAVES = 0.12;
const COMPUTED_SHARE = 0.2;
const ROUGH_SHARE = 0.15;

export interface SongLoop {
  samples: Float32Array;
  beats: number;
  durationSeconds: number;
}

/** So many bars from a bar line of a stretch on; undefined where they are not all there, or the metre changes. */
export function loopOf(clip: SongClip, firstBar: number, bars: number): SongLoop | undefined {
  const [from, to] = [clip.downbeats[firstBar], clip.downbeats[firstBar + bars]];
  if (to === undefined) return undefined;
  // Times may have been rounded.
  const beats = clip.beats.filter((each) => each > from - 1e-6 && each < to - 1e-6).length;
  if (beats !== bars * clip.metre.beats) return undefined;
  const samples = clip.samples.slice(Math.round(from * RATE_HZ), Math.round(to * RATE_HZ));
  return { samples, beats, durationSeconds: to - from };
}

interface Stretch {
  /** In the song as it is written, and how much longer it takes. */
  startSeconds: number;
  factor: number;
  durationSeconds: number;
}

/** A stretch of a song, drawn by the seed; undefined where too little is played in it. @param whole the arrangement as it was written */
async function songClip(
  song: WrittenSong,
  bank: Bank,
  seed: number,
  whole: boolean,
): Promise<SongClip | undefined> {
  const random = createRandom(seed);
  const factor = whole ? 1 : 2 ** (TEMPO_OCTAVES * (2 * random() - 1));
  const last = song.beats[song.beats.length - 1];
  const durationSeconds = Math.min(14 + 14 * random(), last * factor);
  const startSeconds = random() * Math.max(0, last - durationSeconds / factor);
  const stretch = { startSeconds, factor, durationSeconds };
  const heard = whole ? 'all' : drawn(random);
  const parts = partsWithin(chosen(song, heard, random), stretch);
  if (parts.reduce((sum, { notes }) => sum + notes.length, 0) < LEAST_NOTES_HEARD) return undefined;
  const samples = whole
    ? mono(await renderMidi(bank, song.bytes, startSeconds, durationSeconds, RATE_HZ))
    : asRecorded(await mixed(parts, bank, durationSeconds, random), random);
  const at = (written: number) => (written - startSeconds) * factor;
  const inside = (times: readonly number[]) => times.filter((t) => t >= 0 && t < durationSeconds);
  const beats = inside(song.beats.map(at));
  const first = song.beats.findIndex((each) => at(each) >= 0);
  return {
    name: `${song.name} ${seed}`,
    song: song.name,
    collection: song.collection,
    samples: toPeak(samples),
    beats,
    downbeats: inside(song.downbeats.map((index) => at(song.beats[index]))),
    metre: song.metres[first + Math.floor(beats.length / 2)] ?? song.metres[0],
    heard,
  };
}

function partsWithin(
  parts: WrittenSong['parts'],
  { startSeconds, factor, durationSeconds }: Stretch,
): WrittenSong['parts'] {
  const at = (written: number) => (written - startSeconds) * factor;
  return parts
    .map((part) => ({
      ...part,
      notes: part.notes
        .map((note) => ({ ...note, startSeconds: at(note.startSeconds), endSeconds: at(note.endSeconds) }))
        .filter((note) => note.startSeconds >= 0 && note.startSeconds < durationSeconds),
    }))
    .filter(({ notes }) => notes.length > 0);
}

/** Levels are others each time, and now and then the drums are computed. */
async function mixed(
  parts: WrittenSong['parts'],
  bank: Bank,
  durationSeconds: number,
  random: Random,
): Promise<Float32Array> {
  const samples = new Float32Array(Math.ceil(durationSeconds * RATE_HZ));
  for (const part of parts) {
    const computed = part.drums && random() < COMPUTED_SHARE;
    const level = 0.6 + 0.8 * random();
    const sound = computed
      ? asLoudAsAKit(computedDrums(part.notes, samples.length, RATE_HZ, random, random() < 0.5))
      : mono(await renderPart(bank, part, durationSeconds, RATE_HZ));
    for (let n = 0; n < samples.length; n++) samples[n] += level * (sound[n] ?? 0);
  }
  return samples;
}

function drawn(random: Random): Heard {
  let rest = random();
  for (const [heard, share] of HEARD) {
    rest -= share;
    if (rest < 0) return heard;
  }
  return 'all';
}

function chosen(song: WrittenSong, heard: Heard, random: Random): WrittenSong['parts'] {
  const pitched = song.parts.filter(({ drums }) => !drums);
  switch (heard) {
    case 'all':
      return song.parts;
    case 'no drums':
      return pitched;
    case 'drums':
      return song.parts.filter(({ drums }) => drums);
    case 'rhythm section':
      return song.parts.filter(
        ({ drums, program }) => drums || (program >= BASSES[0] && program <= BASSES[1]),
      );
    case 'one part':
      return pitched.length > 0 ? [pitched[Math.floor(random() * pitched.length)]] : [];
  }
}

/** A room, noise, and now and then a poor recording. */
function asRecorded(samples: Float32Array, random: Random): Float32Array {
  if (random() < 0.4) addReverb(samples, RATE_HZ, 0.05 + 0.2 * random(), 0.3 + 1.2 * random());
  if (random() < 0.8) addNoise(samples, 25 + 40 * random(), random);
  if (random() >= ROUGH_SHARE) return samples;
  return roughen(samples, RATE_HZ, random() < 0.5 ? 'phone in a room' : 'clipped', random);
}

function toPeak(samples: Float32Array): Float32Array {
  let peak = 1e-9;
  for (const value of samples) peak = Math.max(peak, Math.abs(value));
  return samples.map((value) => (0.7 * value) / peak);
}

function asLoudAsAKit(samples: Float32Array): Float32Array {
  let energy = 1e-9;
  for (const value of samples) energy += value * value;
  const scale = 0.08 / Math.sqrt(energy / samples.length);
  return samples.map((value) => scale * value);
}
