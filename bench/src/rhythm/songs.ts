/**
 * Whole arrangements that others wrote, as pieces with a known pulse: stretches of songs in Standard MIDI Files, with everything that is
 * played, without drums, or some of it alone. What people write for a band tells which of several pulses is the beat, as no rhythm by
 * chance does.
 *
 * Training and choosing: the songs of Freedoom (BSD, `training/songs.py`), two in three and the third. Test: a folder of songs by others.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { isMidiName, readMidi } from '@plundra/core/formats';
import { createRandom, type Random } from '@plundra/core/signal';
import { createTimeMap, TICKS_PER_QUARTER, type MetreEntry } from '@plundra/core/song';
import { loadBank, renderMidi, renderPart, type SampledNote } from '@plundra/demo';
import { roughen } from '../clips/degrade.ts';
import { addNoise, addReverb } from '../clips/room.ts';
import { computedDrums } from './computedDrums.ts';
import type { Metre } from './patterns.ts';

type Bank = Awaited<ReturnType<typeof loadBank>>;

export interface WrittenSong {
  name: string;
  bytes: Uint8Array;
  parts: { drums: boolean; program: number; notes: SampledNote[] }[];
  /** Seconds; indices of bar lines among them, and the metre that holds from each beat on. */
  beats: number[];
  downbeats: number[];
  metres: Metre[];
}

export interface SongClip {
  name: string;
  song: string;
  samples: Float32Array;
  beats: number[];
  downbeats: number[];
  metre: Metre;
  /** What is left of the arrangement. */
  heard: string;
}

const RATE_HZ = 22050;
/** Notes begin on quarters, eighths, sixteenths or triplets, as near as this in quarters; of songs that were played freely they do not. */
const GRID = [0, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4, 1];
const ON_GRID_QUARTERS = 1 / 24;
const LEAST_ON_GRID = 0.8;
const LEAST_NOTES = 60;
/** What a stretch must hold to say where its beats are. */
const LEAST_NOTES_HEARD = 24;

export type SongSet = 'tuning' | 'choosing' | 'test';

const SEEDS: Record<SongSet, number> = { tuning: 7_000_000, choosing: 9_000_000, test: 11_000_000 };
const BANKS: Record<SongSet, readonly Parameters<typeof loadBank>[0][]> = {
  tuning: ['FluidR3Mono_GM', 'MuseScore_General_Lite'],
  choosing: ['FluidR3Mono_GM', 'MuseScore_General_Lite'],
  test: ['TimGM6mb'],
};

/** Songs in a folder of MIDI files whose notes keep to their beats, in the order of their names: those of a set, "test" takes all. */
export function loadSongs(folder: string, set: SongSet): WrittenSong[] {
  const songs = readdirSync(folder)
    .filter(isMidiName)
    .sort()
    .flatMap((name) => {
      const song = writtenSong(name, readFileSync(join(folder, name)));
      return song ? [song] : [];
    });
  return set === 'test' ? songs : songs.filter((_, i) => (i % 3 === 2) === (set === 'choosing'));
}

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

/** Undefined where the beats that are written are not those that are played. Throws MidiFormatError. */
export function writtenSong(name: string, bytes: Uint8Array): WrittenSong | undefined {
  let next = 0;
  const file = readMidi(bytes, () => String(next++));
  const time = createTimeMap(file);
  const starts: number[] = [];
  let endTicks = 0;
  const parts = file.parts.map((part) => ({
    drums: part.kind === 'drums',
    program: part.kind === 'notes' ? part.program : 0,
    notes: part.passages.flatMap((passage) =>
      passage.notes.map(({ startTicks, lengthTicks, midi, velocity }) => {
        const start = passage.startTicks + startTicks;
        starts.push(start);
        endTicks = Math.max(endTicks, start + lengthTicks);
        return {
          startSeconds: time.secondsAt(start),
          endSeconds: time.secondsAt(start + lengthTicks),
          midi: Math.round(midi),
          velocity,
        };
      }),
    ),
  }));
  const onGrid = starts.filter((start) => {
    const place = (start / TICKS_PER_QUARTER) % 1;
    return GRID.some((each) => Math.abs(place - each) < ON_GRID_QUARTERS);
  });
  if (starts.length < LEAST_NOTES || onGrid.length < LEAST_ON_GRID * starts.length) return undefined;
  const song: WrittenSong = { name, bytes, parts, beats: [], downbeats: [], metres: [] };
  for (const { ticks, first, metre } of beatsOf(file.metreMap, endTicks)) {
    if (first) song.downbeats.push(song.beats.length);
    song.beats.push(time.secondsAt(ticks));
    song.metres.push(metre);
  }
  return song;
}

/** In 6/8, 9/8 and 12/8 a beat is a dotted quarter. */
function* beatsOf(metreMap: readonly MetreEntry[], endTicks: number) {
  for (const [i, { startTicks, beats, unit }] of metreMap.entries()) {
    const compound = unit === 8 && beats > 3 && beats % 3 === 0;
    const metre: Metre = { beats: compound ? beats / 3 : beats, compound };
    const step = ((TICKS_PER_QUARTER * 4) / unit) * (compound ? 3 : 1);
    const end = metreMap[i + 1]?.startTicks ?? endTicks;
    for (let k = 0; startTicks + k * step < end; k++)
      yield { ticks: startTicks + k * step, first: k % metre.beats === 0, metre };
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

function mono({ left, right }: { left: Float32Array; right: Float32Array }): Float32Array {
  return left.map((value, i) => (value + right[i]) / 2);
}
