/**
 * Songs as Standard MIDI Files 1.0, format 1, 960 ticks: a first track with tempo, metre and key, then one track
 * a note part with name, program, level, pan, notes and pitch bends. Reading takes files of any resolution.
 */
import { parseMidi, writeMidi, type MidiEvent } from 'midi-file';
import { joinAll } from './bytes.ts';
import { wholeMidi } from './midiChunks.ts';
import { createMidiFitting, type MidiFitting } from './midiFitting.ts';
import {
  LONGEST_NAME,
  LONGEST_TITLE,
  MAX_BEND_SEMITONES,
  MAX_NOTES_IN_SONG,
  MAX_PARTS,
  MAX_TICKS,
  TICKS_PER_QUARTER,
  channelBendsOf,
  markOf,
  type ChannelBend,
  type MetreEntry,
  type Note,
  type NotePart,
  type Song,
  type TempoEntry,
} from '../song/index.ts';

/** Semitones up and down that a full pitch wheel means in our files (registered parameter 0). */
export const BEND_RANGE_SEMITONES = 12;
/** Largest step of the wheel above its centre. */
const FULL_WHEEL = 8191;
/** Assumed in foreign files that do not say (General MIDI level 1). */
const DEFAULT_BEND_RANGE = 2;
const DRUM_CHANNEL = 9;

/** A file that is no MIDI, or none that can be read. The message is a sentence for the user. */
export class MidiFormatError extends Error {
  override name = 'MidiFormatError';
}

/** What a MIDI file gives a song. */
export interface MidiContents {
  title: string | undefined;
  key: Song['key'];
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

type Timed = { ticks: number; order: number; event: MidiEvent };

/** Writes the note and drum parts of a song; recordings have no place in the format. */
export function writeSongMidi(song: Song, options: { bends: boolean } = { bends: true }): Uint8Array {
  const parts = song.parts.filter((part): part is NotePart => part.kind !== 'recording');
  const tracks = [
    conductorTrack(song),
    ...parts.map((part, i) => partTrack(part, channelOf(parts, i), options.bends)),
  ];
  return writeTracks(tracks.map(toDeltas));
}

/** The library copies all it has written at every event; in pieces of this many that costs nothing. */
const EVENTS_AT_ONCE = 200;
const HEADER_BYTES = 14;
const CHUNK_HEAD_BYTES = 8;

/** A file of whole tracks: each is written in pieces, whose bodies stand behind each other. */
function writeTracks(tracks: MidiEvent[][]): Uint8Array {
  const header = { format: 1 as const, numTracks: tracks.length, ticksPerBeat: TICKS_PER_QUARTER };
  const empty = writeMidi({ header, tracks: tracks.map(() => []) });
  const out: Uint8Array[] = [Uint8Array.from(empty.slice(0, HEADER_BYTES))];
  for (const track of tracks) {
    const bodies: Uint8Array[] = [];
    for (let from = 0; from < track.length; from += EVENTS_AT_ONCE) {
      const piece = writeMidi({ header, tracks: [track.slice(from, from + EVENTS_AT_ONCE)] });
      bodies.push(Uint8Array.from(piece.slice(HEADER_BYTES + CHUNK_HEAD_BYTES)));
    }
    const head = Uint8Array.from([0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, 0]);
    new DataView(head.buffer).setUint32(
      4,
      bodies.reduce((sum, body) => sum + body.length, 0),
    );
    out.push(head, ...bodies);
  }
  return joinAll(out);
}

/** Pitched parts take channels in turn, leaving out the drum channel. */
function channelOf(parts: NotePart[], index: number): number {
  if (parts[index].kind === 'drums') return DRUM_CHANNEL;
  const turn = parts.slice(0, index).filter((part) => part.kind === 'notes').length % 15;
  return turn < DRUM_CHANNEL ? turn : turn + 1;
}

function conductorTrack(song: Song): Timed[] {
  const events: Timed[] = [
    { ticks: 0, order: 0, event: meta({ type: 'trackName', text: toBytes(song.title) }) },
  ];
  for (const { startTicks, bpm } of song.tempoMap) {
    events.push({
      ticks: startTicks,
      order: 2,
      event: meta({ type: 'setTempo', microsecondsPerBeat: Math.round(60e6 / bpm) }),
    });
  }
  for (const { startTicks, beats, unit } of song.metreMap) {
    const event = meta({
      type: 'timeSignature',
      numerator: beats,
      denominator: unit,
      metronome: 24,
      thirtyseconds: 8,
    });
    events.push({ ticks: startTicks, order: 1, event });
  }
  if (song.key) {
    const event = meta({
      type: 'keySignature',
      key: song.key.fifths,
      scale: song.key.mode === 'minor' ? 1 : 0,
    });
    events.push({ ticks: 0, order: 1, event });
  }
  return events;
}

function partTrack(part: NotePart, channel: number, withBends: boolean): Timed[] {
  const events: Timed[] = [
    { ticks: 0, order: 0, event: meta({ type: 'trackName', text: toBytes(part.name) }) },
  ];
  const at = (ticks: number, order: number, event: object) =>
    events.push({ ticks, order, event: event as MidiEvent });
  const controller = (controllerType: number, value: number) =>
    at(0, 1, { type: 'controller', channel, controllerType, value });
  if (part.kind === 'notes') at(0, 1, { type: 'programChange', channel, programNumber: part.program });
  controller(7, levelToController(part.levelDb));
  controller(10, panToController(part.pan));
  const bends = withBends ? channelBendsOf(part) : [];
  if (bends.length > 0) {
    controller(101, 0);
    controller(100, 0);
    controller(6, BEND_RANGE_SEMITONES);
    controller(38, 0);
  }
  for (const passage of part.passages) {
    for (const note of passage.notes) {
      if (note.muted) continue;
      const start = passage.startTicks + note.startTicks;
      at(start, 4, { type: 'noteOn', channel, noteNumber: note.midi, velocity: note.velocity });
      at(start + note.lengthTicks, 2, { type: 'noteOff', channel, noteNumber: note.midi, velocity: 64 });
    }
  }
  for (const { startTicks, semitones } of bends) {
    const value = Math.round(Math.max(-1, Math.min(1, semitones / BEND_RANGE_SEMITONES)) * FULL_WHEEL);
    at(startTicks, 3, { type: 'pitchBend', channel, value });
  }
  return events;
}

function toDeltas(events: Timed[]): MidiEvent[] {
  // A note of one tick's distance must end before the next one on its pitch begins: offs sort before ons.
  const sorted = events.map((each, index) => ({ ...each, index }));
  sorted.sort((a, b) => a.ticks - b.ticks || a.order - b.order || a.index - b.index);
  let last = 0;
  const out = sorted.map(({ ticks, event }) => {
    const deltaTime = ticks - last;
    last = ticks;
    return { ...event, deltaTime } as MidiEvent;
  });
  out.push({ deltaTime: 0, meta: true, type: 'endOfTrack' } as MidiEvent);
  return out;
}

/**
 * Reads a file. Each track and channel that holds notes becomes a part with one passage from tick 0, or several where one
 * cannot hold them. `createId` names parts, passages and notes. What a song cannot hold is changed or left out, and said.
 * Throws {@link MidiFormatError}.
 */
export function readMidi(
  bytes: Uint8Array,
  createId: () => string,
  room: MidiRoom = { parts: MAX_PARTS, notes: MAX_NOTES_IN_SONG },
): MidiContents {
  const fitting = createMidiFitting();
  const file = parsedFile(bytes, fitting);
  const scale = TICKS_PER_QUARTER / file.header.ticksPerBeat!;
  const found = { title: undefined as string | undefined, key: null as Song['key'] };
  const tempos = new Map<number, TempoEntry>();
  const metres = new Map<number, MetreEntry>();
  const parts: NotePart[] = [];

  file.tracks.forEach((track, trackIndex) => {
    let ticks = 0;
    let trackName: string | undefined;
    const channels = new Map<number, ChannelState>();
    for (const event of track) {
      ticks += event.deltaTime;
      const startTicks = Math.round(ticks * scale);
      if (startTicks > MAX_TICKS) {
        fitting.leaveOutLate();
        break;
      }
      switch (event.type) {
        case 'trackName':
          trackName ??= fromBytes(event.text).trim() || undefined;
          break;
        case 'setTempo': {
          const bpm = fitting.tempo(tidyTempo(event.microsecondsPerBeat));
          tempos.set(startTicks, { startTicks, bpm });
          break;
        }
        case 'timeSignature': {
          const metre = fitting.metre(event.numerator, event.denominator);
          if (metre) metres.set(startTicks, { startTicks, ...metre });
          break;
        }
        case 'keySignature':
          if (startTicks === 0 && Math.abs(event.key) <= 7)
            found.key ??= { fifths: event.key, mode: event.scale === 1 ? 'minor' : 'major' };
          break;
        default:
          if ('channel' in event) channelEvent(channels, event, startTicks, createId);
      }
    }
    if (trackIndex === 0) found.title = trackName;
    for (const [channel, state] of channels) {
      const part = toPart(state, channel, trackName, parts.length, createId, fitting);
      if (part) parts.push(part);
    }
  });
  return {
    title: found.title && fitting.name(found.title, LONGEST_TITLE),
    key: found.key,
    tempoMap: fitting.tempoMap(fromZero([...tempos.values()], { startTicks: 0, bpm: 120 })),
    metreMap: fitting.metreMap(fromZero([...metres.values()], { startTicks: 0, beats: 4, unit: 4 })),
    parts: fitting.parts(parts, room),
    changed: fitting.changed(),
  };
}

function parsedFile(bytes: Uint8Array, fitting: MidiFitting): ReturnType<typeof parseMidi> {
  if (bytes.length === 0)
    throw new MidiFormatError('This MIDI file is empty. Choose another file, or export it again.');
  if (!chunksAreWhole(bytes)) {
    throw new MidiFormatError(
      'This MIDI file ends in the middle of its data, so its notes would be incomplete. Export it again, or choose another file.',
    );
  }
  const unreadable = new MidiFormatError(
    'This is not a MIDI file that can be read: its data breaks off or follows no known order. Export it again as a standard MIDI file.',
  );
  const whole = wholeMidi(bytes);
  if (!whole) throw unreadable;
  if (whole.brokenTracks > 0) fitting.breakOff(whole.brokenTracks);
  let file: ReturnType<typeof parseMidi>;
  try {
    file = parseMidi(whole.bytes);
  } catch {
    throw unreadable;
  }
  if (!file.header.ticksPerBeat) {
    throw new MidiFormatError(
      'This MIDI file counts in film frames instead of beats, which cannot be placed in bars. Export it with ticks per quarter note.',
    );
  }
  return file;
}

/** Whether every chunk is as long as it says; the parser would read on past the end without a word. */
function chunksAreWhole(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const isMidi = bytes.length >= 14 && view.getUint32(0) === 0x4d546864;
  let at = 0;
  while (isMidi && at + 8 <= bytes.length) at += 8 + view.getUint32(at + 4);
  return at <= bytes.length;
}

interface ChannelState {
  program: number;
  levelDb: number;
  pan: number;
  bendRange: number;
  parameter: [number, number];
  notes: Note[];
  sounding: Map<number, { startTicks: number; velocity: number }[]>;
  bends: ChannelBend[];
  lastTicks: number;
}

function channelEvent(
  channels: Map<number, ChannelState>,
  event: MidiEvent & { channel: number },
  ticks: number,
  createId: () => string,
) {
  let state = channels.get(event.channel);
  if (!state) {
    state = {
      program: 0,
      levelDb: 0,
      pan: 0,
      bendRange: DEFAULT_BEND_RANGE,
      parameter: [127, 127],
      notes: [],
      sounding: new Map(),
      bends: [],
      lastTicks: 0,
    };
    channels.set(event.channel, state);
  }
  state.lastTicks = Math.max(state.lastTicks, ticks);
  if (event.type === 'noteOn' && event.velocity > 0) {
    const waiting = state.sounding.get(event.noteNumber) ?? [];
    waiting.push({ startTicks: ticks, velocity: event.velocity });
    state.sounding.set(event.noteNumber, waiting);
  } else if (event.type === 'noteOff' || event.type === 'noteOn') {
    const started = state.sounding.get(event.noteNumber)?.shift();
    if (started) {
      state.notes.push({
        id: createId(),
        startTicks: started.startTicks,
        lengthTicks: Math.max(1, ticks - started.startTicks),
        midi: event.noteNumber,
        velocity: started.velocity,
      });
    }
  } else if (event.type === 'programChange') {
    state.program = event.programNumber;
  } else if (event.type === 'pitchBend') {
    const semitones = Math.round((event.value / FULL_WHEEL) * state.bendRange * 1000) / 1000;
    // The wheel goes one step further down than up.
    const most = MAX_BEND_SEMITONES;
    state.bends.push({ startTicks: ticks, semitones: Math.max(-most, Math.min(most, semitones)) });
  } else if (event.type === 'controller') {
    controllerEvent(state, event.controllerType, event.value);
  }
}

function controllerEvent(state: ChannelState, type: number, value: number): void {
  if (type === 7) state.levelDb = controllerToLevel(value);
  else if (type === 10) state.pan = controllerToPan(value);
  else if (type === 101) state.parameter[0] = value;
  else if (type === 100) state.parameter[1] = value;
  else if (type === 6 && state.parameter[0] === 0 && state.parameter[1] === 0)
    state.bendRange = Math.min(MAX_BEND_SEMITONES, value);
}

function toPart(
  state: ChannelState,
  channel: number,
  trackName: string | undefined,
  index: number,
  createId: () => string,
  fitting: MidiFitting,
): NotePart | undefined {
  // Notes that were never ended last to the end of their channel.
  for (const [midi, waiting] of state.sounding) {
    for (const { startTicks, velocity } of waiting) {
      state.notes.push({
        id: createId(),
        startTicks,
        lengthTicks: Math.max(1, state.lastTicks - startTicks),
        midi,
        velocity,
      });
    }
  }
  if (state.notes.length === 0) return undefined;
  const name = fitting.name(trackName ?? `Part ${index + 1}`, LONGEST_NAME);
  const shared = {
    id: createId(),
    name,
    mark: markOf(name),
    colour: index % 10,
    levelDb: state.levelDb,
    pan: state.pan,
    mute: false,
    solo: false,
    passages: fitting.passages(state.notes, state.bends, createId),
  };
  return channel === DRUM_CHANNEL
    ? { ...shared, kind: 'drums' }
    : { ...shared, kind: 'notes', program: state.program };
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

/** Channel volume by General MIDI's recommended curve, 40·log10(value/127) dB, with 0 dB at 100. */
function levelToController(levelDb: number): number {
  return Math.max(0, Math.min(127, Math.round(100 * 10 ** (levelDb / 40))));
}

function controllerToLevel(value: number): number {
  return value === 0 ? -60 : Math.round(Math.max(-60, 40 * Math.log10(value / 100)) * 10) / 10;
}

function panToController(pan: number): number {
  return Math.round(64 + pan * (pan < 0 ? 64 : 63));
}

function controllerToPan(value: number): number {
  return Math.round(((value - 64) / (value < 64 ? 64 : 63)) * 100) / 100;
}

function meta(event: object): MidiEvent {
  return { meta: true, ...event } as MidiEvent;
}

/** The library writes one byte a character: text travels as UTF-8. */
function toBytes(text: string): string {
  return String.fromCharCode(...new TextEncoder().encode(text));
}

function fromBytes(text: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(
      Uint8Array.from(text, (char) => char.charCodeAt(0)),
    );
  } catch {
    return text;
  }
}
