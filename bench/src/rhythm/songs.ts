/**
 * Whole arrangements that others wrote, in Standard MIDI Files, and where their beats lie. What people write for a band tells which of several
 * pulses is the beat, as no rhythm by chance does.
 *
 * Training and choosing: the songs of Freedoom (BSD, `training/songs.py`), two in three and the third. Test: a folder of songs by others.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { isMidiName, readMidi } from '@plundra/core/formats';
import { createTimeMap, TICKS_PER_QUARTER, type MetreEntry } from '@plundra/core/song';
import type { SampledNote } from '@plundra/demo';
import type { Metre } from './patterns.ts';

export interface WrittenSong {
  name: string;
  bytes: Uint8Array;
  parts: { drums: boolean; program: number; notes: SampledNote[] }[];
  /** Seconds; indices of bar lines among them, and the metre that holds from each beat on. */
  beats: number[];
  downbeats: number[];
  metres: Metre[];
}

/** Notes begin on quarters, eighths, sixteenths or triplets, as near as this in quarters; of songs that were played freely they do not. */
const GRID = [0, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4, 1];
const ON_GRID_QUARTERS = 1 / 24;
const LEAST_ON_GRID = 0.8;
const LEAST_NOTES = 60;

export type SongSet = 'tuning' | 'choosing' | 'test';

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
