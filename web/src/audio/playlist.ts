/**
 * What sounds, as plain data: from the song, the place one is in and the listen mode to recordings and notes in
 * seconds of the song. Pure; the engine reads it again and again while playing, so edits are heard at once.
 */
import { soundingNotes } from '@plundra/core/retune';
import { voiceChord } from '@plundra/core/theory';
import {
  chordEntriesOf,
  channelBendsOf,
  chordSpans,
  createPassageTime,
  createTimeMap,
  songEndTicks,
  type NotePart,
  type Part,
  type RecordingPart,
  type Song,
} from '@plundra/core/song';
import type { Correction } from './corrections.ts';
import type { Sound } from './instruments.ts';

/** What one listens to: `both` blends, `split` puts one in each ear. */
export type ListenMode = 'recording' | 'notes' | 'both' | 'split';

export interface ListenChoice {
  mode: ListenMode;
  /** In `both`: 0 only the recording … 1 only the notes; 0.5 both at full level. */
  blend: number;
  /** The part that is open in the Notes place; its line sounds as notes. Null: the whole song. */
  focusPartId: string | null;
  /** Whether the other parts sound along while one is open. */
  withOthers: boolean;
  /** Program that plays a line's notes. */
  lineProgram: Sound;
  /** Hear recordings as they were before any correction. */
  before: boolean;
  /** The part that sounds in the other ear in `split`; null: the notes of the open part. */
  againstPartId: string | null;
  chords: ChordListening;
}

/** Whether the chords sound, beside the parts or alone, and with what. */
export interface ChordListening {
  how: 'off' | 'with' | 'alone';
  program: number;
  octaves: number;
}

export interface RecordingTrack {
  type: 'recording';
  key: string;
  gainDb: number;
  pan: number;
  hash: string;
  /** Where second 0 of the recording lies in the song, and which seconds of it sound. */
  originSeconds: number;
  fromSeconds: number;
  toSeconds: number;
  /** What is laid over it; undefined: as recorded. */
  correction: Correction | undefined;
}

export interface PlayedNote {
  startSeconds: number;
  endSeconds: number;
  midi: number;
  velocity: number;
}

export interface NoteTrack {
  type: 'notes';
  key: string;
  gainDb: number;
  pan: number;
  program: Sound;
  /** In order of their start. */
  notes: PlayedNote[];
  bends: { timeSeconds: number; semitones: number }[];
}

export type Track = RecordingTrack | NoteTrack;

const SILENT_DB = -120;

/** Gains of the two sides in dB for a blend: full at the middle, falling towards the other end. */
export function blendGains(blend: number): { recordingDb: number; notesDb: number } {
  const db = (share: number) => (share <= 0 ? SILENT_DB : Math.min(0, 20 * Math.log10(share)));
  return { recordingDb: db(2 * (1 - blend)), notesDb: db(2 * blend) };
}

type CorrectionMap = ReadonlyMap<string, Correction>;

/** Built when they are asked for, and anew when another correction can be heard: an edit while nothing plays costs nothing. */
export function tracksWhenAsked(
  song: Song,
  choice: ListenChoice,
  corrections: () => CorrectionMap,
): () => Track[] {
  let built: { tracks: Track[]; of: CorrectionMap } | undefined;
  return () => {
    const of = corrections();
    if (built?.of !== of) built = { tracks: buildTracks(song, choice, of), of };
    return built.tracks;
  };
}

export function buildTracks(
  song: Song,
  choice: ListenChoice,
  corrections: CorrectionMap = new Map(),
): Track[] {
  const chords = choice.chords.how === 'off' ? [] : [chordTrack(song, choice.chords)];
  if (choice.chords.how === 'alone') return chords;
  return [...choose(song, choice), ...chords].map((track) =>
    track.type === 'recording' && !choice.before
      ? { ...track, correction: corrections.get(track.key) }
      : track,
  );
}

function choose(song: Song, choice: ListenChoice): Track[] {
  const anySolo = song.parts.some((part) => part.solo);
  const audible = (part: Part) => !part.mute && (!anySolo || part.solo);
  const focus = song.parts.find((part) => part.id === choice.focusPartId);
  if (!focus) return song.parts.filter(audible).flatMap((part) => balanced(song, part, choice));

  const against = song.parts.find((part) => part.id === choice.againstPartId);
  if (choice.mode === 'split' && against && against !== focus) {
    return [
      ...trackOf(song, focus).map((track) => ({ ...track, pan: -1 })),
      ...trackOf(song, against).map((track) => ({ ...track, pan: 1 })),
    ];
  }
  const tracks: Track[] = [];
  const source =
    focus.kind === 'recording' ? undefined : song.parts.find((part) => part.id === focus.madeFromPartId);
  const recording = focus.kind === 'recording' ? focus : source?.kind === 'recording' ? source : undefined;
  if (recording) tracks.push(...balanced(song, recording, choice));
  if (focus.kind === 'recording') tracks.push(...lineTracks(song, focus, choice));
  else tracks.push(...balanced(song, focus, recording ? choice : { ...choice, mode: 'both', blend: 0.5 }));
  if (choice.withOthers) {
    const others = song.parts.filter((part) => part !== focus && part !== recording && audible(part));
    tracks.push(...others.flatMap((part) => trackOf(song, part)));
  }
  return tracks;
}

/** The tracks of a part with what the listen mode does to them; none where it leaves them out. */
function balanced(song: Song, part: Part, choice: ListenChoice): Track[] {
  const isRecording = part.kind === 'recording';
  if (choice.mode === (isRecording ? 'notes' : 'recording')) return [];
  return trackOf(song, part).map((track) => placed(track, isRecording, choice));
}

function placed(track: Track, isRecording: boolean, choice: ListenChoice): Track {
  if (choice.mode === 'split') return { ...track, pan: isRecording ? -1 : 1 };
  if (choice.mode !== 'both') return track;
  const { recordingDb, notesDb } = blendGains(choice.blend);
  return { ...track, gainDb: track.gainDb + (isRecording ? recordingDb : notesDb) };
}

function trackOf(song: Song, part: Part): Track[] {
  return part.kind === 'recording' ? recordingTracks(song, part) : [noteTrack(song, part)];
}

function recordingTracks(song: Song, part: RecordingPart): RecordingTrack[] {
  const time = createTimeMap(song);
  return part.passages.map((passage) => ({
    type: 'recording',
    key: `${part.id}/${passage.id}`,
    gainDb: part.levelDb,
    pan: part.pan,
    hash: passage.recordingHash,
    originSeconds: createPassageTime(passage, time).originSeconds,
    fromSeconds: passage.offsetSeconds,
    toSeconds: passage.offsetSeconds + passage.durationSeconds,
    correction: undefined,
  }));
}

const CHORDS_GAIN_DB = -8;
const CHORDS_VELOCITY = 78;

/** The chords as held chords of a keyboard, each moving little from the one before. */
function chordTrack(song: Song, { program, octaves }: ChordListening): NoteTrack {
  const time = createTimeMap(song);
  const spans = chordSpans(chordEntriesOf(song), songEndTicks(song, time));
  let previous: number[] = [];
  const notes = spans.flatMap(({ change, startTicks, endTicks }) => {
    if (!change.chord) return [];
    previous = voiceChord(change.chord, { voicing: 'keyboard', octaves }, previous);
    return previous.map((midi) => ({
      startSeconds: time.secondsAt(startTicks),
      endSeconds: time.secondsAt(endTicks),
      midi,
      velocity: CHORDS_VELOCITY,
    }));
  });
  return { type: 'notes', key: 'changes', gainDb: CHORDS_GAIN_DB, pan: 0, program, notes, bends: [] };
}

const sounds = (note: { muted?: true }) => !note.muted;

function noteTrack(song: Song, part: NotePart): NoteTrack {
  const time = createTimeMap(song);
  const notes = part.passages.flatMap((passage) =>
    passage.notes.filter(sounds).map((note) => ({
      startSeconds: time.secondsAt(passage.startTicks + note.startTicks),
      endSeconds: time.secondsAt(passage.startTicks + note.startTicks + note.lengthTicks),
      midi: note.midi,
      velocity: note.velocity,
    })),
  );
  const bends = channelBendsOf(part).map(({ startTicks, semitones }) => ({
    timeSeconds: time.secondsAt(startTicks),
    semitones,
  }));
  return {
    type: 'notes',
    key: part.id,
    gainDb: part.levelDb,
    pan: part.pan,
    program: part.kind === 'drums' ? 'drums' : part.program,
    notes: notes.sort((a, b) => a.startSeconds - b.startSeconds),
    bends,
  };
}

/** A line as notes, beside its recording. */
function lineTracks(song: Song, part: RecordingPart, choice: ListenChoice): Track[] {
  if (choice.mode === 'recording') return [];
  const time = createTimeMap(song);
  const notes = part.passages.flatMap((passage) => {
    const { originSeconds } = createPassageTime(passage, time);
    return soundingNotes(passage)
      .filter(sounds)
      .map(({ startSeconds, endSeconds, midi, velocity }) => ({
        startSeconds: originSeconds + startSeconds,
        endSeconds: originSeconds + endSeconds,
        midi,
        velocity,
      }));
  });
  const track: NoteTrack = {
    type: 'notes',
    key: `${part.id}/line`,
    gainDb: part.levelDb,
    pan: part.pan,
    program: part.passages.some(({ line }) => line?.reads === 'hits') ? 'drums' : choice.lineProgram,
    notes: notes.sort((a, b) => a.startSeconds - b.startSeconds),
    bends: [],
  };
  return [placed(track, false, choice)];
}
