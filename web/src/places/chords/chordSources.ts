/** What chords can be read from, and chords that were found but not taken yet. */
import { MOST_KNOWN_BEATS, type ChordsResult, type ChordsRequest } from '@plundra/contract';
import {
  beatsOfRecording,
  createPassageTime,
  placedRecordings,
  readChordsOf,
  type KeyChange,
  type NotePart,
  type ReadChordAt,
  type RecordingPart,
  type PlacedRecording,
  type BeatsOfSong,
  type ChordWindow,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import type { Key } from '@plundra/core/theory';
import { readChordsOfPart, WHOLE_SONG } from './readChordsOfPart.ts';

export interface FoundChords {
  /** What they were read from. */
  name: string;
  chords: ReadChordAt[];
  keys: ChordsResult['keys'];
  keyChanges: ChordsResult['keyChanges'];
  /** Of sound only; a note part lies in the bars of the song. */
  tempo?: ChordsResult['tempo'];
  /** Where its seconds lie in the song, at least once. */
  windows: readonly [ChordWindow, ...ChordWindow[]];
  /** The one recording that can keep them as its own. */
  owner?: { partId: string; takeId: string };
  /** The recordings, where they can be read again over other beats. */
  partIds?: string[];
  /** That whose seconds are counted. */
  recordingHash?: string;
  /** How they were read. */
  over?: ReadOver;
  /** Its beats were put right by hand; whether the tempo is to follow them. */
  asPlayed?: boolean;
}

/** The beats that chords are read over: those of the recording, the song's, or the song's where the recording fits them. */
export type ReadOver = 'own' | 'song' | 'fitting';

export interface ChordSources {
  recordings: RecordingPart[];
  noteParts: NotePart[];
}

export function chordSources(song: Song): ChordSources {
  return {
    recordings: song.parts.filter(
      (part): part is RecordingPart =>
        part.kind === 'recording' && part.material !== 'drums' && part.passages.length > 0,
    ),
    noteParts: song.parts.filter((part) => part.kind === 'notes'),
  };
}

/** Chords are read best from what plays them. */
export function firstChordal(recordings: readonly RecordingPart[]): RecordingPart | undefined {
  const first = (wanted: string) => recordings.find(({ material }) => material === wanted);
  return first('keys') ?? first('guitar') ?? first('other') ?? recordings.at(0);
}

/**
 * The parts that are read after a choice: recordings together, or a single note part.
 * @param before what was chosen, `now` what is
 */
export function settledChoice(
  before: readonly string[],
  now: string[],
  { noteParts }: ChordSources,
): string[] {
  const added = now.find((id) => !before.includes(id));
  const isNotes = (id: string) => noteParts.some((part) => part.id === id);
  if (added && isNotes(added)) return [added];
  return now.filter((id) => !isNotes(id) || now.length === 1);
}

/** What to ask for, and where the answer's seconds lie. */
export interface RecordingsToRead {
  request: ChordsRequest;
  /** With its tempo where that is known before. */
  found: Omit<FoundChords, 'chords' | 'keys' | 'keyChanges'>;
}

/** The same with what somebody knows of the tempo. @param bpm within what beats are looked for at */
export const nearTempo = ({ request, found }: RecordingsToRead, bpm: number): RecordingsToRead => ({
  request: { ...request, nearBpm: bpm },
  found,
});

/** The same over beats that were put right by hand. @param asPlayed whether the tempo is to follow them */
export function overBeats(
  { request, found }: RecordingsToRead,
  tempo: ChordsResult['tempo'],
  asPlayed: boolean,
): RecordingsToRead {
  const { beats, downbeats, beatsPerBar } = tempo;
  const bars = new Set(downbeats);
  const known = {
    seconds: beats.map((each) => Number(each.toFixed(4))),
    downbeats: beats.flatMap((at, i) => (bars.has(at) ? [i] : [])),
    beatsPerBar,
    always: true,
  };
  return { request: { ...request, beats: known }, found: { ...found, tempo, asPlayed } };
}

/** Recordings that are read together; the one that begins first counts the seconds. */
export function recordingsToRead(
  parts: readonly RecordingPart[],
  time: TimeMap,
  over: ReadOver = 'own',
): RecordingsToRead {
  const placed = parts
    .map((part) => {
      const [passage] = placedRecordings(part);
      return { part, passage, originSeconds: createPassageTime(passage, time).toSong(0) };
    })
    .sort((a, b) => a.originSeconds - b.originSeconds);
  const [first, ...others] = placed;
  const together = others.map(({ passage, originSeconds }) => ({
    recordingHash: passage.recordingHash,
    laterSeconds: Number((originSeconds - first.originSeconds).toFixed(4)),
  }));
  const alone = parts.length === 1;
  const windows: FoundChords['windows'] = alone
    ? windowsOf(first.part)
    : [{ ...first.passage, durationSeconds: Infinity }];
  const beats = over === 'own' ? undefined : songBeats(parts, windows, time);
  return {
    request: {
      recordingHash: first.passage.recordingHash,
      type: 'chords',
      ...(together.length > 0 && { together }),
      ...(beats && { beats: { ...beats, always: over === 'song' } }),
    },
    found: {
      name: alone ? first.part.name : `${parts.length} recordings`,
      windows,
      ...(alone && { owner: { partId: first.part.id, takeId: first.passage.takeId } }),
      partIds: parts.map(({ id }) => id),
      recordingHash: first.passage.recordingHash,
      over,
    },
  };
}

/** The song's beats in the seconds that windows count; none where they are too few or too many to be read over. */
function songBeats(
  parts: readonly RecordingPart[],
  windows: readonly ChordWindow[],
  time: TimeMap,
): BeatsOfSong | undefined {
  const ends = parts.flatMap((part) =>
    placedRecordings(part).map((passage) => createPassageTime(passage, time).toSong(endOf(passage))),
  );
  const until = createPassageTime(windows[0], time).toRecorded(Math.max(...ends));
  const last = Math.max(until, ...windows.map(endOf).filter(Number.isFinite));
  const { seconds, ...bars } = beatsOfRecording(windows, time, last);
  if (seconds.length < FEWEST_BEATS || seconds.length > MOST_KNOWN_BEATS || bars.downbeats.length === 0)
    return undefined;
  return { seconds: seconds.map((each) => Number(each.toFixed(4))), ...bars };
}

const FEWEST_BEATS = 3;

export function foundInNotes(part: NotePart, time: TimeMap): FoundChords {
  const { chords, keys, keyChanges } = readChordsOfPart(part, time);
  return { name: part.name, chords, keys, keyChanges, windows: [WHOLE_SONG] };
}

/** The recording's own chords. */
export function ownChanges(part: RecordingPart): FoundChords {
  const windows = windowsOf(part);
  // The last of its chords holds until the last of its passages ends.
  const last = windows.reduce((a, b) => (endOf(b) > endOf(a) ? b : a));
  return { name: part.name, chords: readChordsOf(last), keys: [], keyChanges: [], windows };
}

const endOf = ({ offsetSeconds, durationSeconds }: ChordWindow) => offsetSeconds + durationSeconds;

/** All passages of the take that is read: the one that sounds first. */
function windowsOf(part: RecordingPart): [PlacedRecording, ...PlacedRecording[]] {
  const [first, ...others] = placedRecordings(part);
  return [first, ...others.filter(({ takeId }) => takeId === first.takeId)];
}

/** The key that was chosen of those that were found; with the likeliest come the keys that the recording goes through. */
export function keysFound(
  found: FoundChords,
  index: number,
  time: TimeMap,
): { key: Key; keyChanges: KeyChange[] } {
  const { toSong } = createPassageTime(found.windows[0], time);
  const barOf = (seconds: number) => time.barAt(Math.round(time.ticksAt(Math.max(0, toSong(seconds))))).bar;
  const [first, ...changes] = index === 0 ? found.keyChanges : [];
  const starts = new Map(
    changes.map(({ startSeconds, key }) => [time.barStartTicks(barOf(startSeconds)), key] as const),
  );
  starts.delete(0);
  return {
    key: changes.length > 0 ? first.key : found.keys[index].key,
    keyChanges: [...starts]
      .map(([startTicks, key]) => ({ startTicks, key }))
      .sort((a, b) => a.startTicks - b.startTicks),
  };
}
