/** What happens on one channel of a MIDI track: notes, sounds, bends; each of its sounds becomes a part. */
import type { MidiEvent } from 'midi-file';
import {
  LONGEST_NAME,
  MAX_BEND_SEMITONES,
  markOf,
  type ChannelBend,
  type Note,
  type NotePart,
} from '../song/index.ts';
import { controllerToLevel, controllerToPan, DRUM_CHANNEL, FULL_WHEEL } from './midiControllers.ts';
import type { MidiFitting } from './midiFitting.ts';

/** Assumed in foreign files that do not say (General MIDI level 1). */
const DEFAULT_BEND_RANGE = 2;

interface StartedNote {
  startTicks: number;
  velocity: number;
  program: number;
}

interface ChannelState {
  program: number;
  levelDb: number;
  pan: number;
  bendRange: number;
  parameter: [number, number];
  /** By program, in the order of their first note. */
  notes: Map<number, Note[]>;
  sounding: Map<number, StartedNote[]>;
  bends: ChannelBend[];
  lastTicks: number;
}

/** The channels of one track. */
export interface TrackChannels {
  event(event: MidiEvent & { channel: number }, ticks: number): void;
  /** Parts of all channels with notes. @param before how many parts there are already */
  parts(trackName: string | undefined, before: number, fitting: MidiFitting): NotePart[];
}

export function createTrackChannels(createId: () => string): TrackChannels {
  const channels = new Map<number, ChannelState>();
  return {
    event(event, ticks) {
      let state = channels.get(event.channel);
      if (!state) channels.set(event.channel, (state = emptyState()));
      channelEvent(state, event, ticks, createId);
    },
    parts(trackName, before, fitting) {
      const parts: NotePart[] = [];
      for (const [channel, state] of channels)
        parts.push(...partsOf(state, channel, trackName, before + parts.length, createId, fitting));
      return parts;
    },
  };
}

function emptyState(): ChannelState {
  return {
    program: 0,
    levelDb: 0,
    pan: 0,
    bendRange: DEFAULT_BEND_RANGE,
    parameter: [127, 127],
    notes: new Map(),
    sounding: new Map(),
    bends: [],
    lastTicks: 0,
  };
}

function channelEvent(
  state: ChannelState,
  event: MidiEvent & { channel: number },
  ticks: number,
  createId: () => string,
): void {
  state.lastTicks = Math.max(state.lastTicks, ticks);
  if (event.type === 'noteOn' && event.velocity > 0) {
    const waiting = state.sounding.get(event.noteNumber) ?? [];
    const program = event.channel === DRUM_CHANNEL ? 0 : state.program;
    waiting.push({ startTicks: ticks, velocity: event.velocity, program });
    state.sounding.set(event.noteNumber, waiting);
  } else if (event.type === 'noteOff' || event.type === 'noteOn') {
    const started = state.sounding.get(event.noteNumber)?.shift();
    if (started) endNote(state, started, event.noteNumber, ticks, createId);
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

/** A note of no length is as short as one can be. */
function endNote(
  { notes }: ChannelState,
  { startTicks, velocity, program }: StartedNote,
  midi: number,
  endTicks: number,
  createId: () => string,
): void {
  const voice = notes.get(program) ?? [];
  voice.push({ id: createId(), startTicks, lengthTicks: Math.max(1, endTicks - startTicks), midi, velocity });
  notes.set(program, voice);
}

function controllerEvent(state: ChannelState, type: number, value: number): void {
  if (type === 7) state.levelDb = controllerToLevel(value);
  else if (type === 10) state.pan = controllerToPan(value);
  else if (type === 101) state.parameter[0] = value;
  else if (type === 100) state.parameter[1] = value;
  else if (type === 6 && state.parameter[0] === 0 && state.parameter[1] === 0)
    state.bendRange = Math.min(MAX_BEND_SEMITONES, value);
}

function partsOf(
  state: ChannelState,
  channel: number,
  trackName: string | undefined,
  before: number,
  createId: () => string,
  fitting: MidiFitting,
): NotePart[] {
  // Notes that were never ended last to the end of their channel.
  for (const [midi, waiting] of state.sounding)
    for (const started of waiting) endNote(state, started, midi, state.lastTicks, createId);
  if (state.notes.size > 1) fitting.changeOfSound();
  return [...state.notes].map(([program, notes], i): NotePart => {
    const index = before + i;
    const own = trackName && (i === 0 ? trackName : `${trackName} ${i + 1}`);
    const name = fitting.name(own ?? `Part ${index + 1}`, LONGEST_NAME);
    const shared = {
      id: createId(),
      name,
      mark: markOf(name),
      colour: index % 10,
      levelDb: state.levelDb,
      pan: state.pan,
      mute: false,
      solo: false,
      passages: fitting.passages(notes, state.bends, createId),
    };
    return channel === DRUM_CHANNEL ? { ...shared, kind: 'drums' } : { ...shared, kind: 'notes', program };
  });
}
