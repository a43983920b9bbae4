/** What a passage of a song is on the shelf. */
import type { Ticks } from '../signal/index.ts';
import {
  clockAlong,
  createPassageTime,
  createTimeMap,
  keyAt,
  passageEndTicks,
  shownNotes,
  soundingTicks,
  TICKS_PER_QUARTER,
  type Found,
  type Note,
  type Part,
  type RecordingPassage,
  type Song,
} from '../song/index.ts';
import { transposedKey, type Key } from '../theory/index.ts';
import { isPitched, type ShelfFacts, type ShelfSound } from './item.ts';

/** An item as it is before it has a name on the shelf; its waveform is drawn where the recording lies. */
export interface KeptItem extends ShelfFacts {
  sound: WithoutPicture<ShelfSound>;
  notes?: Note[];
  fromSong: string;
}

type WithoutPicture<T> = T extends unknown ? Omit<T, 'picture'> : never;

/** It ends this near to a bar line: then it goes round. */
const NEAR_BAR_TICKS = TICKS_PER_QUARTER / 8;
const MOST_LOOP_BARS = 16;

/**
 * A passage as it was recorded or written, with the key and tempo that its song and its place say. A recording is kept without
 * its corrections, so its key is that before it was transposed.
 */
export function keptItemOf(song: Song, { part, passage }: Found): KeptItem | undefined {
  const time = createTimeMap(song);
  const { startTicks } = passage;
  const endTicks = passageEndTicks(passage, time);
  const metreEntry = song.metreMap.findLast((each) => each.startTicks <= startTicks) ?? song.metreMap[0];
  const metre = { beats: metreEntry.beats, unit: metreEntry.unit };
  const toNextBar = nextBarTicks(startTicks, time) - startTicks;
  const beat = time.beatTicksAt(startTicks);
  const upbeatTicks = toNextBar > 0 && toNextBar < beat && startTicks + toNextBar < endTicks ? toNextBar : 0;
  const songKey = keyAt(song, startTicks + upbeatTicks);
  const facts = {
    name: passage.name ?? part.name,
    tags: [],
    metre,
    fromSong: song.title,
  };
  if (passage.type === 'notes') {
    const sounding = shownNotes(passage).filter(({ muted }) => !muted);
    if (sounding.length === 0) return undefined;
    const offset = passage.offsetTicks ?? 0;
    const notes = sounding.map((note) => ({
      ...note,
      startTicks: note.startTicks - offset,
      lengthTicks: soundingTicks(passage, note),
    }));
    const program = part.kind === 'notes' ? part.program : ('drums' as const);
    const sound = {
      type: 'notes' as const,
      program,
      lengthTicks: Math.max(1, passage.lengthTicks),
      upbeatTicks,
      noteCount: notes.length,
    };
    const material = program === 'drums' ? ('drums' as const) : ('other' as const);
    const key = program === 'drums' ? null : (passage.key ?? songKey);
    return {
      ...facts,
      kind: 'phrase',
      material,
      key,
      bpm: round(time.quartersPerMinuteAt(startTicks)),
      sound,
      notes,
    };
  }
  if (part.kind !== 'recording') return undefined;
  const take = part.takes.find(({ id }) => id === passage.takeId);
  if (!take) return undefined;
  const { toTicks, toSeconds } = createPassageTime(passage, time);
  const lengthTicks = toTicks(passage.offsetSeconds + passage.durationSeconds) - startTicks;
  // Of all of it: where the song's tempo follows how it was played, it is as many beats long as were played.
  const { bpm, played } = clockAlong(passage, toTicks);
  const sound = {
    type: 'recording' as const,
    recordingHash: take.recordingHash,
    offsetSeconds: passage.offsetSeconds,
    durationSeconds: passage.durationSeconds,
    upbeatSeconds: upbeatTicks === 0 ? 0 : toSeconds(startTicks + upbeatTicks) - passage.offsetSeconds,
    ...(played && { played }),
  };
  const { material } = part;
  return {
    ...facts,
    kind: goesRound(lengthTicks, upbeatTicks, (metre.beats * 4 * TICKS_PER_QUARTER) / metre.unit)
      ? 'loop'
      : 'recording',
    material,
    key: isPitched({ material, sound: { ...sound, picture: [] } })
      ? recordedKey(part, passage, songKey)
      : null,
    bpm: round(bpm),
    sound,
  };
}

const round = (bpm: number) => Math.max(10, Math.min(400, Math.round(bpm * 1000) / 1000));

/** The key before the recording was transposed. */
function recordedKey(part: Part, passage: RecordingPassage, songKey: Key | null): Key | null {
  const key = passage.key ?? songKey;
  if (!key || part.kind !== 'recording') return key;
  const semitones = part.takes.find(({ id }) => id === passage.takeId)?.stretch?.semitones ?? 0;
  return transposedKey(key, -Math.round(semitones));
}

function goesRound(lengthTicks: Ticks, upbeatTicks: Ticks, barTicks: Ticks): boolean {
  const bars = Math.round(lengthTicks / barTicks);
  return (
    upbeatTicks === 0 &&
    bars >= 1 &&
    bars <= MOST_LOOP_BARS &&
    Math.abs(lengthTicks - bars * barTicks) < NEAR_BAR_TICKS
  );
}

function nextBarTicks(ticks: Ticks, time: ReturnType<typeof createTimeMap>): Ticks {
  const { bar } = time.barAt(ticks);
  const start = time.barStartTicks(bar);
  return start === ticks ? ticks : time.barStartTicks(bar + 1);
}
