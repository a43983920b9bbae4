/** How an item fits a place of a song: how far it moves in pitch, how much slower or faster it goes, and what is in the way. */
import {
  beatsPerMinute,
  beatTicksOf,
  createTimeMap,
  keyAt,
  quartersPerMinute,
  semitonesBetween,
  TICKS_PER_QUARTER,
  type Song,
} from '../song/index.ts';
import type { Ticks } from '../signal/index.ts';
import { sameKey, transposedKey, type Key } from '../theory/index.ts';
import { isPitched, type ShelfItem, type ShelfMetre } from './item.ts';

/** What an item has to fit. */
export interface SongPlace {
  key: Key | null;
  /** Quarter notes a minute. */
  bpm: number;
  metre: ShelfMetre;
}

/** What is wanted to fit. */
export interface FitWish {
  key: boolean;
  tempo: boolean;
}

export interface ItemFit {
  /** By how much it is transposed. */
  semitones: number;
  /** The key it has then; null: none that is known. */
  key: Key | null;
  /** It stays in a key with the same notes as the song's: minor under major, or the other way round. */
  relative: boolean;
  /** The tempo it is counted at, in quarter notes a minute: its own, its double or its half; null: it keeps its own time. */
  countedBpm: number | null;
  /** How much longer it sounds then than it was recorded: 1 is as recorded. Phrases are only notes: 1. */
  longer: number;
  /** It is counted in another metre than the song. */
  otherMetre: boolean;
  /** It is made so much longer or shorter, or moved so far, that it is heard. */
  heard: boolean;
}

/** Sounds transposed further are heard to be made (common practice: about a third). */
const HEARD_SEMITONES = 4;
/** So is what is made this much longer or shorter (common practice: about a quarter). */
const HEARD_LONGER = 1.25;
/** Counting at double or half the tempo must come this much nearer, in octaves. */
const RECOUNT_OCTAVES = 0.35;

/** Key, tempo and metre at a place of a song. */
export function songPlace(
  song: Pick<Song, 'key' | 'keyChanges' | 'tempoMap' | 'metreMap'>,
  ticks: Ticks,
): SongPlace {
  const { beats, unit } = song.metreMap.findLast(({ startTicks }) => startTicks <= ticks) ?? song.metreMap[0];
  return {
    key: keyAt(song, ticks),
    bpm: createTimeMap(song).quartersPerMinuteAt(ticks),
    metre: { beats, unit },
  };
}

export function fitItem(item: ShelfItem, place: SongPlace, wish: FitWish): ItemFit {
  const pitched = isPitched(item);
  const from = pitched ? item.key : null;
  const semitones = from && place.key && wish.key ? semitonesBetween(from, place.key) : 0;
  const key = from && transposedTo(from, place.key, semitones);
  const countedBpm = wish.tempo && item.bpm !== null ? counted(item.bpm, item.metre, place) : null;
  const isSound = item.sound.type === 'recording';
  const longer = isSound && countedBpm !== null ? countedBpm / place.bpm : 1;
  return {
    semitones,
    key,
    relative:
      key !== null && place.key !== null && key.mode !== place.key.mode && key.fifths === place.key.fifths,
    countedBpm,
    longer,
    otherMetre: item.bpm !== null && !sameBars(item.metre, place.metre),
    heard:
      Math.abs(Math.log(longer)) > Math.log(HEARD_LONGER) ||
      (isSound && Math.abs(semitones) > HEARD_SEMITONES),
  };
}

/** Written as the song's where it is that; else as it is usually written. */
function transposedTo(from: Key, to: Key | null, semitones: number): Key {
  const key = transposedKey(from, semitones);
  if (!to) return key;
  return semitonesBetween(key, to) === 0 && key.mode === to.mode && !sameKey(key, to) ? to : key;
}

/** Beat on beat, whatever note value each is written as: a dotted quarter in 6/8 goes with a quarter in 4/4. */
function counted(bpm: number, metre: ShelfMetre, place: SongPlace): number {
  const beats = beatsPerMinute(bpm, metre);
  const songBeats = beatsPerMinute(place.bpm, place.metre);
  const away = (factor: number) =>
    Math.abs(Math.log2((beats * factor) / songBeats)) + (factor === 1 ? 0 : RECOUNT_OCTAVES);
  const factor = [1, 2, 0.5].reduce((best, each) => (away(each) < away(best) ? each : best));
  return quartersPerMinute(beats * factor, place.metre);
}

const barTicks = ({ beats, unit }: ShelfMetre): Ticks => (beats * 4 * TICKS_PER_QUARTER) / unit;
const barBeats = (metre: ShelfMetre) => barTicks(metre) / beatTicksOf(metre);

/** 2/4, 4/4, 6/8 and 12/8 go together; 3/4 and 6/8 do not, though their bars are as long. */
function sameBars(a: ShelfMetre, b: ShelfMetre): boolean {
  const [long, short] = [barBeats(a), barBeats(b)].sort((x, y) => y - x);
  return long === short || long === 2 * short;
}

/** How far an item is from fitting as it is: 0 fits; for sorting. */
export function fitDistance({ semitones, longer, otherMetre, heard, relative }: ItemFit): number {
  return (
    Math.abs(semitones) / 6 +
    4 * Math.abs(Math.log2(longer)) +
    (relative ? 0.1 : 0) +
    (heard ? 2 : 0) +
    (otherMetre ? 4 : 0)
  );
}

/** Length of an item in ticks of its own time; undefined where it has no beat. */
export function itemLengthTicks({ sound, bpm }: Pick<ShelfItem, 'sound' | 'bpm'>): Ticks | undefined {
  if (sound.type === 'notes') return sound.lengthTicks;
  return bpm === null ? undefined : Math.round((sound.durationSeconds * bpm * TICKS_PER_QUARTER) / 60);
}

/** Length in bars of its metre, as a musician counts them; undefined where it has no beat. */
export function itemBars(item: Pick<ShelfItem, 'sound' | 'bpm' | 'metre'>): number | undefined {
  const ticks = itemLengthTicks(item);
  return ticks === undefined ? undefined : ticks / barTicks(item.metre);
}
