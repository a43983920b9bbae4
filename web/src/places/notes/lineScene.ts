/** Everything the notes canvas shows, and where its bands lie. */
import { firstFrom } from '../../audio/firstFrom.ts';
import type { PeakLevel, Seconds } from '@plundra/core/signal';
import type { Contour, Stroke } from '@plundra/core/reading';
import type { TimeMap } from '@plundra/core/song';
import type { KeySpan } from '../../song/keySpans.ts';
import type { PlacedChord } from '../../canvas/chordRow.ts';
import type { View } from '../../canvas/view.ts';
import type { CanvasNote } from './canvasNote.ts';

export const BANDS = { ruler: 26, chords: 22, labels: 62, waveform: 104 };

export interface SceneRecording {
  /** Of the passage that shows it. */
  passageId: string;
  peaks: PeakLevel[] | undefined;
  sampleRateHz: number;
  durationSeconds: number;
  contour: Contour | undefined;
  /** Seconds of the recording in song time, and the way back. */
  toSong(recordedSeconds: Seconds): Seconds;
  toRecorded(songSeconds: Seconds): Seconds;
  /** The stretch of it that is placed. */
  fromSeconds: number;
  toSeconds: number;
  /** Its own chords, in song time. */
  ownChords: readonly PlacedChord[];
}

export interface LeaderNote {
  id: string;
  startSeconds: number;
  endSeconds: number;
  midi: number;
  /** Note of this part that belongs to it; undefined: it has no partner. */
  partnerId: string | undefined;
}

export interface LineScene {
  view: View;
  time: TimeMap;
  /** The key of each place, in order; the first from the start on. */
  keys: readonly KeySpan[];
  gridStepTicks: number;
  notes: readonly CanvasNote[];
  selected: ReadonlySet<string>;
  /** Notes an open proposal would change, and those it would remove. */
  previewed: ReadonlySet<string>;
  previewRemoved: ReadonlySet<string>;
  /** Notes it would add. */
  previewAdded: readonly CanvasNote[];
  /** What lies under the notes, passage by passage in order of time; null: nothing was recorded. */
  recordings: readonly SceneRecording[] | null;
  /** Notes that were read, shown faintly beside onsets that are worked on. */
  backdrop: readonly CanvasNote[];
  /** Notes are onsets, which are shown on the waveform only. */
  unpitched: boolean;
  partColour: string;
  /** The chords of the song, in order. */
  chords: readonly PlacedChord[];
  /** Rows are drums with names, not pitches: the key of each row, lowest first. */
  drumRows: readonly number[] | null;
  /** Notes that one movement of the hand struck. */
  strokes: readonly Stroke[];
  /** Show line notes as they were recorded. */
  before: boolean;
  /** Pitch at which notes sound that follow the chords, where that is another. */
  sounding: ReadonlyMap<string, number>;
  /** Where notes would go, while a pull or lock is being prepared: song seconds and pitch by note. */
  wouldGo: ReadonlyMap<string, { startSeconds: number; midi?: number }>;
  /** Notes of another part that this one may be locked to. */
  leader: readonly LeaderNote[];
}

/** What was recorded where a line note was played. */
export function recordingOf({ recordings }: LineScene, note: CanvasNote): SceneRecording | undefined {
  return recordings?.find(({ passageId }) => passageId === note.passageId);
}

/** What lies at a time of the song; of passages that overlap the later one. */
export function recordingAt(
  { recordings }: Pick<LineScene, 'recordings'>,
  seconds: Seconds,
): SceneRecording | undefined {
  return recordings?.findLast(
    ({ toSong, fromSeconds, toSeconds }) => seconds >= toSong(fromSeconds) && seconds < toSong(toSeconds),
  );
}

/** The band of pitches: from under the ruler and chord row to the waveform. */
export function noteBand(height: number, hasWaveform: boolean): { top: number; bottom: number } {
  return { top: BANDS.ruler + BANDS.chords, bottom: height - (hasWaveform ? BANDS.waveform : 0) };
}

/** How far anything that is drawn of a note lies from its start, at most. */
export function reachOf(notes: readonly CanvasNote[]): Seconds {
  let reach = 0;
  for (let i = 0; i < notes.length; i++) {
    const note = notes[i];
    const { startSeconds, played } = note;
    if (note.endSeconds - startSeconds > reach) reach = note.endSeconds - startSeconds;
    if (!played) continue;
    if (startSeconds - played.startSeconds > reach) reach = startSeconds - played.startSeconds;
    if (played.endSeconds - startSeconds > reach) reach = played.endSeconds - startSeconds;
  }
  return reach;
}

/** Index range of notes that can be seen; notes are in order of their start. `reachSeconds`: see `reachOf`. */
export function visibleNotes(
  notes: readonly CanvasNote[],
  fromSeconds: number,
  toSeconds: number,
  reachSeconds: number,
): [first: number, last: number] {
  const first = firstFrom(notes, fromSeconds - reachSeconds);
  return [first, firstFrom(notes, toSeconds)];
}
