/** Chords into notes: voiced, led from chord to chord, in a rhythm. */
import { voiceChord, type Voicing } from '../theory/index.ts';
import { TICKS_PER_QUARTER, type ChordSpanOfSong, type Note, type TimeMap } from '../song/index.ts';

/** How a chord is played: held, on every beat, strummed in eighths, broken upwards, or when another part plays. */
export const RHYTHMS = ['held', 'beats', 'strum', 'arpeggio', 'part'] as const;
export type Rhythm = (typeof RHYTHMS)[number];

export interface ChordNotesSettings {
  voicing: Voicing;
  octaves: number;
  withBass: boolean;
  rhythm: Rhythm;
  /** Notes of neighbouring chords that are alike become one; for held chords. */
  joinEqual: boolean;
  /** 1–127 */
  velocity: number;
  /** With rhythm "part": starts of the other part's notes in song ticks, with their lengths and velocities. */
  strikes?: readonly Strike[];
}

export interface Strike {
  startTicks: number;
  lengthTicks: number;
  velocity: number;
}

/** Time between the strings of a strum: 14 ms at 120 bpm. */
const STRUM_TICKS = 27;
/** Up-strokes take the upper strings and are softer. */
const UP_STRINGS = 4;
const UP_SOFTER = 14;
const OFF_BEAT_SOFTER = 8;
const DOWNBEAT_LOUDER = 6;
/** Velocity falls by this from the first string of a stroke to the last. */
const INNER_SOFTER = 5;
/** Strums and arpeggios move in eighths, whatever the metre counts. */
const EIGHTH_TICKS = TICKS_PER_QUARTER / 2;
/** Struck chords are let go a little before the next. */
const STRUCK_SHARE = 0.92;

/** Notes in song ticks, in order of their start. */
export function chordNotes(
  spans: readonly ChordSpanOfSong[],
  settings: ChordNotesSettings,
  time: TimeMap,
  createId: () => string,
): Note[] {
  const notes: Note[] = [];
  let previous: number[] = [];
  for (const { change, startTicks, endTicks } of spans) {
    if (!change.chord) continue;
    const voiced = voiceChord(change.chord, settings, previous);
    previous = voiced.map((midi) => midi);
    for (const { at, length, midis, velocity, strum } of strokes(
      voiced,
      startTicks,
      endTicks,
      settings,
      time,
    )) {
      midis.forEach((midi, i) => {
        const start = at + i * strum;
        const lengthTicks = Math.round(at + length - start);
        const inner = strum > 0 && i > 0 && i < midis.length - 1 ? INNER_SOFTER : 0;
        const own = Math.max(1, velocity - inner);
        if (lengthTicks > 0)
          notes.push({ id: createId(), startTicks: Math.round(start), lengthTicks, midi, velocity: own });
      });
    }
  }
  const sorted = notes.sort((a, b) => a.startTicks - b.startTicks || a.midi - b.midi);
  return settings.joinEqual && settings.rhythm === 'held' ? joinEqual(sorted) : sorted;
}

interface Stroke {
  at: number;
  length: number;
  midis: readonly number[];
  velocity: number;
  /** Ticks from note to note. */
  strum: number;
}

function strokes(
  voiced: readonly number[],
  from: number,
  to: number,
  { rhythm, velocity, strikes }: ChordNotesSettings,
  time: TimeMap,
): Stroke[] {
  const loud = (softer: number) => Math.min(127, Math.max(1, Math.round(velocity - softer)));
  if (rhythm === 'held') return [{ at: from, length: to - from, midis: voiced, velocity, strum: 0 }];
  if (rhythm === 'part')
    return (strikes ?? [])
      .filter(({ startTicks }) => startTicks >= from && startTicks < to)
      .map((strike) => ({
        at: strike.startTicks,
        length: Math.min(strike.lengthTicks, to - strike.startTicks),
        midis: voiced,
        velocity: strike.velocity,
        strum: 0,
      }));
  const result: Stroke[] = [];
  const step = (at: number) => (rhythm === 'beats' ? time.beatTicksAt(at) : EIGHTH_TICKS);
  let index = 0;
  for (let at = from; at < to - 1; index++) {
    // From the chord's start to the grid of the song, then along it.
    const beat = time.beatTicksAt(at);
    const { bar } = time.barAt(at);
    const inBar = at - time.barStartTicks(bar);
    const next = Math.min(
      to,
      time.barStartTicks(bar + 1),
      time.barStartTicks(bar) + (Math.floor(inBar / step(at) + 1e-6) + 1) * step(at),
    );
    const onBeat = Math.abs(inBar % beat) < 1;
    const length = next - at;
    // The first beat of a bar is the strongest, then the others, then what lies between.
    const softer = inBar < 1 ? -DOWNBEAT_LOUDER : onBeat ? 0 : OFF_BEAT_SOFTER;
    if (rhythm === 'beats')
      result.push({
        at,
        length: length * STRUCK_SHARE,
        midis: voiced,
        velocity: loud(softer),
        strum: 0,
      });
    else if (rhythm === 'strum')
      result.push(
        isUpStroke(inBar, beat)
          ? {
              at,
              length,
              midis: [...voiced].reverse().slice(0, UP_STRINGS),
              velocity: loud(UP_SOFTER),
              strum: STRUM_TICKS,
            }
          : { at, length, midis: voiced, velocity: loud(softer), strum: STRUM_TICKS },
      );
    else {
      const order = [...voiced, ...voiced.slice(1, -1).reverse()];
      const midi = order[index % order.length];
      result.push({
        at,
        length: Math.min(2 * length, to - at),
        midis: [midi],
        velocity: loud(softer),
        strum: 0,
      });
    }
    at = next;
  }
  return result;
}

/** The hand goes up on every second eighth of a beat, in dotted beats on the third. */
function isUpStroke(inBarTicks: number, beatTicks: number): boolean {
  const perBeat = Math.round(beatTicks / EIGHTH_TICKS);
  const eighth = Math.round(inBarTicks / EIGHTH_TICKS);
  return perBeat === 3 ? eighth % 3 === 2 : eighth % 2 === 1;
}

function joinEqual(notes: readonly Note[]): Note[] {
  const joined: Note[] = [];
  const ending = new Map<string, Note>();
  for (const note of notes) {
    const before = ending.get(`${note.midi}/${note.startTicks}`);
    const merged = before ?? { ...note };
    if (before) before.lengthTicks += note.lengthTicks;
    else joined.push(merged);
    ending.set(`${note.midi}/${merged.startTicks + merged.lengthTicks}`, merged);
  }
  return joined;
}
