/**
 * What sounds, as plain data: from the song, the place one is in and the listen mode to recordings and notes in
 * seconds of the song. Pure; the engine reads it again and again while playing, so edits are heard at once.
 */
import { soundingNotes } from '@plundra/core/retune';
import { voiceChord } from '@plundra/core/theory';
import {
  channelBendsOf,
  chordEntriesOf,
  chordSpans,
  createPassageTime,
  createTimeMap,
  groupOf,
  isAudible,
  placedRecordings,
  readsHits,
  songEndTicks,
  soundingNotesOf,
  soundingSpans,
  type NotePart,
  type Part,
  type PlacedRecording,
  type RecordingPart,
  type Song,
  type SoundingSpan,
  type TimeMap,
} from '@plundra/core/song';
import type { Correction } from './corrections.ts';
import type { Sound } from './instruments.ts';
import { sourceOfSpan } from './soundSources.ts';

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

/** Where the sounds of a group come together. */
export interface Bus {
  key: string;
  gainDb: number;
}

export interface RecordingTrack {
  type: 'recording';
  key: string;
  /** Of its part: where its sound comes together. */
  strip: string;
  bus?: Bus;
  /** What is made for it as one: the corrected take, or its own sound; see soundSources.ts. */
  source: string;
  /** It sounds at a speed of its own: what is made is all there is, and until then it is silent. */
  warped: boolean;
  gainDb: number;
  pan: number;
  hash: string;
  /** Where second 0 of the recording lies in the song, and which seconds of it sound. */
  originSeconds: number;
  fromSeconds: number;
  toSeconds: number;
  /** Of the passage, besides that of its part. */
  levelDb: number;
  /** From its edges on; undefined: as short as keeps it from clicking, or none at the edge of the recording. */
  fadeInSeconds: number | undefined;
  fadeOutSeconds: number | undefined;
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
  /** Where its sound comes together: its key. */
  strip: string;
  bus?: Bus;
  gainDb: number;
  pan: number;
  program: Sound;
  /** In order of their start. */
  notes: PlayedNote[];
  bends: { timeSeconds: number; semitones: number }[];
}

export type Track = RecordingTrack | NoteTrack;

const SILENT_DB = -120;
/** Two passages that meet cross over this time, where their part names no other. */
const SEAM_SECONDS = 0.01;

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
  return [...choose(song, choice), ...chords].flatMap((track): Track[] => {
    if (track.type !== 'recording') return [track];
    const correction = corrections.get(track.source);
    if (track.warped) return correction?.made ? [{ ...track, correction }] : [];
    return [choice.before ? track : { ...track, correction }];
  });
}

function choose(song: Song, choice: ListenChoice): Track[] {
  const audible = (part: Part) => isAudible(song, part);
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
  const bus = busOf(song, part);
  const time = createTimeMap(song);
  const spans = soundingSpans(part, time);
  const seam = part.seamSeconds ?? SEAM_SECONDS;
  const heard = new Map<string, number>();
  return spans.map((span, i) => {
    const { passageId, originSeconds, fromSeconds, toSeconds } = span;
    const start = originSeconds + fromSeconds;
    const end = originSeconds + toSeconds;
    // A passage that is covered in its middle sounds in two pieces.
    const piece = (heard.get(passageId) ?? 0) + 1;
    heard.set(passageId, piece);
    const meets = (other: SoundingSpan | undefined, at: number, edge: 'from' | 'to') =>
      other !== undefined &&
      Math.abs(other.originSeconds + (edge === 'to' ? other.toSeconds : other.fromSeconds) - at) < 1e-4;
    const seamBefore = meets(spans[i - 1], start, 'to');
    const seamAfter = meets(spans[i + 1], end, 'from');
    return {
      type: 'recording' as const,
      key: piece === 1 ? `${part.id}/${passageId}` : `${part.id}/${passageId}/${piece}`,
      strip: part.id,
      source: sourceOfSpan(part, span, time).key,
      warped: span.warp !== undefined,
      ...bus,
      gainDb: part.levelDb,
      pan: part.pan,
      hash: span.recordingHash,
      originSeconds,
      fromSeconds,
      // Where another begins at once, the two cross.
      toSeconds: seamAfter && span.fadeOutSeconds === undefined ? toSeconds + seam : toSeconds,
      levelDb: span.gainDb,
      fadeInSeconds: span.fadeInSeconds ?? (seamBefore ? seam : undefined),
      fadeOutSeconds: span.fadeOutSeconds ?? (seamAfter ? seam : undefined),
      correction: undefined,
    };
  });
}

/** Where the strip of a part goes in: the bus of its group. */
function busOf(song: Song, part: Part): { bus?: Bus } {
  const group = groupOf(song, part);
  return group ? { bus: { key: group.id, gainDb: group.levelDb } } : {};
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
  return {
    type: 'notes',
    key: 'changes',
    strip: 'changes',
    gainDb: CHORDS_GAIN_DB,
    pan: 0,
    program,
    notes,
    bends: [],
  };
}

const sounds = (note: { muted?: true }) => !note.muted;

function noteTrack(song: Song, part: NotePart): NoteTrack {
  const time = createTimeMap(song);
  const notes = soundingNotesOf(part).map(({ startTicks, lengthTicks, midi, velocity }) => ({
    startSeconds: time.secondsAt(startTicks),
    endSeconds: time.secondsAt(startTicks + lengthTicks),
    midi,
    velocity,
  }));
  const bends = channelBendsOf(part).map(({ startTicks, semitones }) => ({
    timeSeconds: time.secondsAt(startTicks),
    semitones,
  }));
  return {
    type: 'notes',
    key: part.id,
    strip: part.id,
    ...busOf(song, part),
    gainDb: part.levelDb,
    pan: part.pan,
    program: part.kind === 'drums' ? 'drums' : part.program,
    notes: notes.sort((a, b) => a.startSeconds - b.startSeconds),
    bends,
  };
}

/** What was read, beside its recording: notes on the sound that was chosen, hits on the drum kit, though both be of one part. */
function lineTracks(song: Song, part: RecordingPart, choice: ListenChoice): Track[] {
  if (choice.mode === 'recording') return [];
  const time = createTimeMap(song);
  const placedOnes = placedRecordings(part);
  const hits = placedOnes.filter(readsHits);
  const others = placedOnes.filter((passage) => !readsHits(passage));
  return [
    { passages: others, program: choice.lineProgram, name: 'line' },
    { passages: hits, program: 'drums' as const, name: 'hits' },
  ]
    .filter(({ passages }) => passages.length > 0)
    .map(({ passages, program, name }): Track => {
      const key = `${part.id}/${name}`;
      const track: NoteTrack = {
        type: 'notes',
        key,
        strip: key,
        ...busOf(song, part),
        gainDb: part.levelDb,
        pan: part.pan,
        program,
        notes: passages
          .flatMap((passage) => lineNotesOf(passage, time))
          .sort((a, b) => a.startSeconds - b.startSeconds),
        bends: [],
      };
      return placed(track, false, choice);
    });
}

function lineNotesOf(passage: PlacedRecording, time: TimeMap): NoteTrack['notes'] {
  if (passage.muted) return [];
  const { toSong } = createPassageTime(passage, time);
  const passageEnd = passage.offsetSeconds + passage.durationSeconds;
  return soundingNotes(passage)
    .filter(sounds)
    .map(({ startSeconds, endSeconds, midi, velocity }) => ({
      // A note that crosses a cut sounds as far as its passage goes.
      startSeconds: toSong(Math.max(startSeconds, passage.offsetSeconds)),
      endSeconds: toSong(Math.max(startSeconds, Math.min(endSeconds, passageEnd))),
      midi,
      velocity,
    }));
}
