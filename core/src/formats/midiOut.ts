/**
 * Songs as Standard MIDI Files 1.0, format 1, 960 ticks: a first track with tempo, metre and key, then one track
 * a note part with name, program, level, pan, notes and pitch bends.
 */
import { writeMidi, type MidiEvent } from 'midi-file';
import {
  channelBendsOf,
  createTimeMap,
  keyChangesOf,
  soundingNotesOf,
  TICKS_PER_QUARTER,
  type NotePart,
  type Song,
  type TempoEntry,
} from '../song/index.ts';
import { joinAll } from './bytes.ts';
import {
  BEND_RANGE_SEMITONES,
  DRUM_CHANNEL,
  FULL_WHEEL,
  levelToController,
  panToController,
} from './midiControllers.ts';
import { toMidiText } from './midiText.ts';

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

/** A MIDI file knows no ramps: they become steps this long, each of which takes as long as the ramp does there. */
const RAMP_STEP_TICKS = TICKS_PER_QUARTER / 4;

function steppedTempi(song: Song): TempoEntry[] {
  const time = createTimeMap(song);
  return song.tempoMap.flatMap((entry, i) => {
    const next = song.tempoMap.at(i + 1);
    if (!entry.ramp || !next) return [entry];
    const steps: TempoEntry[] = [];
    for (let startTicks = entry.startTicks; startTicks < next.startTicks; startTicks += RAMP_STEP_TICKS) {
      const endTicks = Math.min(next.startTicks, startTicks + RAMP_STEP_TICKS);
      const seconds = time.secondsAt(endTicks) - time.secondsAt(startTicks);
      steps.push({ startTicks, bpm: ((endTicks - startTicks) / TICKS_PER_QUARTER) * (60 / seconds) });
    }
    return steps;
  });
}

function conductorTrack(song: Song): Timed[] {
  const events: Timed[] = [
    { ticks: 0, order: 0, event: meta({ type: 'trackName', text: toMidiText(song.title) }) },
  ];
  for (const { startTicks, bpm } of steppedTempi(song)) {
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
  const keys = [...(song.key ? [{ startTicks: 0, key: song.key }] : []), ...keyChangesOf(song)];
  for (const { startTicks, key } of keys) {
    const event = meta({ type: 'keySignature', key: key.fifths, scale: key.mode === 'minor' ? 1 : 0 });
    events.push({ ticks: startTicks, order: 1, event });
  }
  return events;
}

function partTrack(part: NotePart, channel: number, withBends: boolean): Timed[] {
  const events: Timed[] = [
    { ticks: 0, order: 0, event: meta({ type: 'trackName', text: toMidiText(part.name) }) },
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
  for (const note of soundingNotesOf(part)) {
    const { startTicks, lengthTicks, midi, velocity } = note;
    // A word ends with a space, a syllable that goes on with its hyphen (RP-017).
    if (note.lyric)
      at(
        startTicks,
        3,
        meta({ type: 'lyrics', text: toMidiText(note.lyric.endsWith('-') ? note.lyric : `${note.lyric} `) }),
      );
    at(startTicks, 4, { type: 'noteOn', channel, noteNumber: midi, velocity });
    at(startTicks + lengthTicks, 2, { type: 'noteOff', channel, noteNumber: midi, velocity: 64 });
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

function meta(event: object): MidiEvent {
  return { meta: true, ...event } as MidiEvent;
}
