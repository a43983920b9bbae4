/**
 * Standard MIDI Files 1.0 as songs: types 0 and 1, of any resolution, also wrapped (RIFF MIDI), counted in film frames, or
 * broken off.
 */
import { parseMidi, type MidiEvent } from 'midi-file';
import {
  LONGEST_TITLE,
  MAX_NOTES_IN_SONG,
  MAX_PARTS,
  MAX_TICKS,
  TICKS_PER_QUARTER,
  type KeyChange,
  type MetreEntry,
  type NotePart,
  type Song,
  type TempoEntry,
} from '../song/index.ts';
import { createTrackChannels } from './midiChannels.ts';
import { unwrapped, wholeMidi } from './midiChunks.ts';
import { createMidiFitting, type MidiFitting } from './midiFitting.ts';
import { fromMidiText, fromMidiTexts } from './midiText.ts';
import { withWords, type MidiWord, type TrackWords } from './midiWords.ts';

/** A file that is no MIDI, or none that can be read. The message is a sentence for the user. */
export class MidiFormatError extends Error {
  override name = 'MidiFormatError';
}

/** Whether a file's name says that it is MIDI: plain, with words to sing along, or wrapped. */
export function isMidiName(fileName: string): boolean {
  return MIDI_ENDING.test(fileName);
}

/** A file's name without the ending that says so. */
export function withoutMidiEnding(fileName: string): string {
  return fileName.replace(MIDI_ENDING, '');
}
const MIDI_ENDING = /\.(midi?|kar|rmi)$/i;

/** What a MIDI file gives a song. */
export interface MidiContents {
  title: string | undefined;
  /** Of its start. */
  key: Song['key'];
  keyChanges: KeyChange[];
  tempoMap: TempoEntry[];
  metreMap: MetreEntry[];
  parts: NotePart[];
  /** Sentences about what had to be changed or left out, because a song cannot hold it. */
  changed: string[];
}

/** How much a song still takes. */
export interface MidiRoom {
  parts: number;
  notes: number;
}

/** What the conductor's events of all tracks add up to. */
interface Conducted {
  title: string | undefined;
  keys: Map<number, KeyChange>;
  tempos: Map<number, TempoEntry>;
  metres: Map<number, MetreEntry>;
}

/** Song title of a file with words, among its text events. */
const TITLE_MARK = '@T';

/**
 * Reads a file. Each track, channel and sound that holds notes becomes a part with one passage from tick 0, or several where one
 * cannot hold them. `createId` names parts, passages and notes. What a song cannot hold is changed or left out, and said.
 * Throws {@link MidiFormatError}.
 */
export function readMidi(
  bytes: Uint8Array,
  createId: () => string,
  room: MidiRoom = { parts: MAX_PARTS, notes: MAX_NOTES_IN_SONG },
): MidiContents {
  const fitting = createMidiFitting();
  const { file, brokenOff } = parsedFile(bytes, fitting);
  const { scale, beats } = timeOf(file.header, fitting);
  const conducted: Conducted = {
    title: undefined,
    keys: new Map(),
    tempos: new Map(),
    metres: new Map(),
  };
  const tracks: TrackWords[] = [];
  const singAlong = file.tracks.some((track) => track.some(isSingAlongMark));
  file.tracks.forEach((track, trackIndex) => {
    let ticks = 0;
    let trackName: string | undefined;
    const channels = createTrackChannels(createId);
    const words: MidiWord[] = [];
    for (const event of track) {
      ticks += event.deltaTime;
      const startTicks = Math.round(ticks * scale);
      if (startTicks > MAX_TICKS) {
        fitting.leaveOutLate();
        break;
      }
      if (event.type === 'trackName') trackName ??= fromMidiText(event.text) || undefined;
      else if ('channel' in event) channels.event(event, startTicks);
      else if (isWord(event, singAlong)) words.push({ startTicks, text: event.text });
      else conductorEvent(conducted, event, startTicks, beats, fitting);
    }
    const before = tracks.reduce((sum, { parts }) => sum + parts.length, 0);
    const parts = channels.parts(trackName, before, fitting);
    // The name of the first track is that of the song (SMF 1.0), unless it plays beside others: then it is an instrument's.
    if (trackIndex === 0 && (file.tracks.length === 1 || parts.length === 0)) conducted.title ??= trackName;
    const texts = fromMidiTexts(words.map(({ text }) => text));
    tracks.push({ words: words.map((word, i) => ({ ...word, text: texts[i] })), parts });
  });
  const { parts, left } = withWords(tracks);
  if (left > 0) fitting.leaveOutWords(left);
  if (brokenOff && parts.length === 0)
    throw new MidiFormatError(
      'This MIDI file breaks off before its first note. Export it again, or choose another file.',
    );
  const { title, keys, tempos, metres } = conducted;
  return {
    title: title && fitting.name(title, LONGEST_TITLE),
    ...fitting.keys([...keys.values()]),
    tempoMap: fitting.tempoMap(fromZero([...tempos.values()], { startTicks: 0, bpm: USUAL_BPM })),
    metreMap: fitting.metreMap(fromZero([...metres.values()], { startTicks: 0, beats: 4, unit: 4 })),
    parts: fitting.parts(parts, room),
    changed: fitting.changed(),
  };
}

/** What is assumed of a file that does not say (Standard MIDI Files 1.0). */
const USUAL_BPM = 120;

/** @param beats whether the file counts in beats: else its tempi say nothing of when it sounds */
function conductorEvent(
  conducted: Conducted,
  event: MidiEvent,
  startTicks: number,
  beats: boolean,
  fitting: MidiFitting,
): void {
  switch (event.type) {
    case 'setTempo':
      if (beats)
        conducted.tempos.set(startTicks, {
          startTicks,
          bpm: fitting.tempo(tidyTempo(event.microsecondsPerBeat)),
        });
      break;
    case 'timeSignature': {
      const metre = fitting.metre(event.numerator, event.denominator);
      if (metre) conducted.metres.set(startTicks, { startTicks, ...metre });
      break;
    }
    case 'keySignature':
      // Every track may say it; the first does.
      if (Math.abs(event.key) <= 7 && !conducted.keys.has(startTicks))
        conducted.keys.set(startTicks, {
          startTicks,
          key: { fifths: event.key, mode: event.scale === 1 ? 'minor' : 'major' },
        });
      break;
    case 'text': {
      const text = fromMidiText(event.text);
      if (text.startsWith(TITLE_MARK)) conducted.title ??= text.slice(TITLE_MARK.length).trim() || undefined;
      break;
    }
  }
}

/** "@KMIDI KARAOKE FILE", "@L" its language, "@T" its titles: text events of such files are their words. */
const isSingAlongMark = (event: MidiEvent) => event.type === 'text' && /^@[KLT]/.test(event.text);

function isWord(
  event: MidiEvent,
  singAlong: boolean,
): event is Extract<MidiEvent, { type: 'lyrics' | 'text' }> {
  return event.type === 'lyrics' || (singAlong && event.type === 'text' && !event.text.startsWith('@'));
}

type MidiFile = ReturnType<typeof parseMidi>;

function parsedFile(bytes: Uint8Array, fitting: MidiFitting): { file: MidiFile; brokenOff: boolean } {
  if (bytes.length === 0)
    throw new MidiFormatError('This MIDI file is empty. Choose another file, or export it again.');
  const whole = wholeMidi(unwrapped(bytes));
  if (!whole) throw unreadable();
  if (whole.brokenTracks > 0) fitting.breakOff(whole.brokenTracks);
  if (whole.endsEarly) fitting.endEarly();
  let file: MidiFile;
  try {
    file = parseMidi(whole.bytes);
  } catch {
    throw unreadable();
  }
  if (file.header.format === 2)
    throw new MidiFormatError(
      'This MIDI file holds several pieces that are not said to sound together (type 2). Save each of them as a file of type 0 or 1.',
    );
  return { file, brokenOff: whole.brokenTracks > 0 || whole.endsEarly };
}

const unreadable = () =>
  new MidiFormatError(
    'This is not a MIDI file that can be read: its data follows no known order. Export it again as a standard MIDI file.',
  );

/** How many of our ticks one of the file's is. A file that counts in film frames is placed at 120 bpm. */
function timeOf(header: MidiFile['header'], fitting: MidiFitting): { scale: number; beats: boolean } {
  if (header.ticksPerBeat) return { scale: TICKS_PER_QUARTER / header.ticksPerBeat, beats: true };
  const { framesPerSecond, ticksPerFrame } = header;
  if (!framesPerSecond || !ticksPerFrame) throw unreadable();
  fitting.filmFrames();
  // 29 means 30 frames in 1.001 seconds.
  const ticksPerSecond = ticksPerFrame * (framesPerSecond === 29 ? 30 / 1.001 : framesPerSecond);
  return { scale: ((USUAL_BPM / 60) * TICKS_PER_QUARTER) / ticksPerSecond, beats: false };
}

/** Tempi are stored in whole microseconds; the shortest decimal that gives the same microseconds comes back. */
function tidyTempo(microsecondsPerBeat: number): number {
  const bpm = 60e6 / microsecondsPerBeat;
  for (const digits of [0, 1, 2, 3, 4]) {
    const short = Number(bpm.toFixed(digits));
    if (Math.round(60e6 / short) === microsecondsPerBeat) return short;
  }
  return bpm;
}

function fromZero<T extends { startTicks: number }>(entries: T[], fallback: T): T[] {
  const sorted = entries.sort((a, b) => a.startTicks - b.startTicks);
  return sorted[0]?.startTicks === 0 ? sorted : [fallback, ...sorted];
}
