/**
 * Whole arrangements that others wrote, in Standard MIDI Files, and where their beats lie. What people write for a band tells which of several
 * pulses is the beat, as no rhythm by chance does.
 *
 * Training and choosing: the songs of Freedoom (BSD, `training/songs.py`), two in three and the third. Test: a folder of songs by others.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { isMidiName, readMidi } from '@plundra/core/formats';
import { createTimeMap, TICKS_PER_QUARTER, type MetreEntry } from '@plundra/core/song';
import type { SampledNote } from '@plundra/demo';
import { parseMidi } from 'midi-file';
import type { Metre } from './patterns.ts';

export interface WrittenSong {
  name: string;
  /** Of the folder that it is in. */
  collection: string;
  bytes: Uint8Array;
  parts: { drums: boolean; program: number; notes: SampledNote[] }[];
  /** Seconds; indices of bar lines among them (none where no metre is written), and the metre that holds from each beat on. */
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

/**
 * Songs in a folder of MIDI files, and then in the folders within it, whose notes keep to their beats, in the order of their names: those of a
 * set, "test" takes all.
 */
export function loadSongs(folder: string, set: SongSet): WrittenSong[] {
  const entries = readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1));
  const songs = entries
    .filter(({ name }) => isMidiName(name))
    .flatMap(({ name }) => {
      const song = writtenSong(name, readFileSync(join(folder, name)));
      return song ? [{ ...song, collection: basename(folder) }] : [];
    });
  const here = set === 'test' ? songs : songs.filter((_, i) => (i % 3 === 2) === (set === 'choosing'));
  const within = entries.filter((entry) => entry.isDirectory());
  return [...here, ...within.flatMap(({ name }) => loadSongs(join(folder, name), set))];
}

/** Undefined where the beats that are written are not those that are played. Throws MidiFormatError. */
export function writtenSong(name: string, bytes: Uint8Array): Omit<WrittenSong, 'collection'> | undefined {
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
  const song: Omit<WrittenSong, 'collection'> = { name, bytes, parts, beats: [], downbeats: [], metres: [] };
  // A file without a metre counts as 4/4 from its start on (SMF 1.0), but who wrote none drew no bar lines either: many begin a beat early or late.
  const barred = parseMidi(bytes).tracks.some((track) => track.some(({ type }) => type === 'timeSignature'));
  for (const { ticks, first, metre } of beatsOf(file.metreMap, endTicks)) {
    if (first && barred) song.downbeats.push(song.beats.length);
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
