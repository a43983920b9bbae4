/** Chord keys: one key plays one chord. What each sounds, and what comes of a take that is played on them. */
import {
  CHORD_KEY_COUNT,
  gridTicks,
  snapTicks,
  withBends,
  type ChordEntry,
  type ChordKey,
  type GridValue,
  type Note,
  type NoteBend,
  type TimeMap,
} from '../song/index.ts';
import {
  bassOf,
  mod12,
  pitchClassOf,
  sameSound,
  semitonesOf,
  type Chord,
  type Degree,
} from '../theory/index.ts';

/** Roots of chord keys lie from G3 on, so that neighbouring keys stay in one register. */
const LOWEST_ROOT = 55;
/** Basses lie from E2 on. */
const LOWEST_BASS = 40;

/** The song's chords in the order in which they first come, each once. */
export function chordKeysOf(changes: readonly ChordEntry[]): ChordKey[] {
  const keys: ChordKey[] = [];
  for (const { chord } of changes) {
    if (keys.length === CHORD_KEY_COUNT) break;
    if (chord && !keys.some((key) => sameSound(key.chord, chord))) keys.push({ chord, inversion: 0 });
  }
  return keys;
}

/** MIDI notes of a chord key, lowest first: stacked on its root, inverted, and its bass below where it has one. */
export function soundOfChordKey(
  { chord, inversion }: ChordKey,
  { octaves = 0, withBass = false }: { octaves?: number; withBass?: boolean } = {},
): number[] {
  const root = LOWEST_ROOT + mod12(pitchClassOf(chord.root)! - LOWEST_ROOT);
  const stack = chord.degrees.map((degree) => root + semitonesOf(degree)).sort((a, b) => a - b);
  for (let turn = 0; turn < Math.min(inversion, stack.length - 1); turn++) {
    stack.push(stack.shift()! + 12);
    stack.sort((a, b) => a - b);
  }
  const bass = LOWEST_BASS + mod12(bassOf(chord) - LOWEST_BASS);
  const notes = withBass || chord.bass ? [bass, ...stack] : stack;
  return [...new Set(notes.map((midi) => midi + 12 * octaves))].filter((midi) => midi >= 0 && midi <= 127);
}

/** Adds a tone to the chord, or takes it out where it is there already; the root stays. */
export function withTone(chord: Chord, degree: Degree): Chord {
  const degrees = chord.degrees.includes(degree)
    ? chord.degrees.filter((each) => each !== degree || each === '1')
    : [...chord.degrees, degree].sort((a, b) => semitonesOf(a) - semitonesOf(b));
  return { ...chord, degrees };
}

/** One press of a key, in seconds of the song. */
export interface Press {
  startSeconds: number;
  endSeconds: number;
  midis: readonly number[];
  /** 1–127 */
  velocity: number;
  /** What it is, where the notes have a name. */
  chord: Chord | undefined;
  /** Where the pitch wheel stood, from a time of the song on, in order; absent: in its middle. */
  bends?: readonly { seconds: number; semitones: number }[];
}

/** Grid to which a take is pulled; `off` keeps it as it was played. */
export type TakePull = GridValue | 'off';

/**
 * Notes of a take in song ticks. A note that begins while the same pitch still sounds ends that one. Pulled notes last a
 * grid step at least.
 */
export function notesOfTake(
  presses: readonly Press[],
  pull: TakePull,
  time: TimeMap,
  createId: () => string,
): Note[] {
  const step = pull === 'off' ? 0 : gridTicks(pull);
  const at = (seconds: number) =>
    snapTicks(Math.max(0, Math.round(time.ticksAt(Math.max(0, seconds)))), step, time);
  const notes: Note[] = [];
  const last = new Map<number, Note>();
  for (const { startSeconds, endSeconds, midis, velocity, bends } of inOrder(presses)) {
    const startTicks = at(startSeconds);
    const lengthTicks = Math.max(step, 1, at(endSeconds) - startTicks);
    for (const midi of midis) {
      const before = last.get(midi);
      // Two presses that fall on one grid line are one note, as long as the longer.
      if (before?.startTicks === startTicks) {
        before.lengthTicks = Math.max(before.lengthTicks, lengthTicks);
        continue;
      }
      if (before) before.lengthTicks = Math.min(before.lengthTicks, startTicks - before.startTicks);
      const note: Note = withBends(
        { id: createId(), startTicks, lengthTicks, midi, velocity },
        bendsOfPress(bends, startSeconds, lengthTicks, time),
      );
      last.set(midi, note);
      notes.push(note);
    }
  }
  return notes;
}

/** The wheel as the shape of a note: what it stood at before holds from the start on. */
function bendsOfPress(
  bends: Press['bends'],
  startSeconds: number,
  lengthTicks: number,
  time: TimeMap,
): NoteBend[] {
  const from = time.ticksAt(Math.max(0, startSeconds));
  const shape = new Map<number, number>();
  for (const { seconds, semitones } of bends ?? []) {
    const afterTicks = Math.max(0, Math.round(time.ticksAt(Math.max(0, seconds)) - from));
    if (afterTicks < lengthTicks) shape.set(afterTicks, semitones);
  }
  return [...shape].map(([afterTicks, semitones]) => ({ afterTicks, semitones }));
}

/** The chords of a take; equal neighbours become one. */
export function changesOfTake(
  presses: readonly Press[],
  pull: TakePull,
  time: TimeMap,
  createId: () => string,
): ChordEntry[] {
  const step = pull === 'off' ? 0 : gridTicks(pull);
  const placed = new Map<number, ChordEntry>();
  for (const { startSeconds, chord } of inOrder(presses)) {
    if (!chord) continue;
    const startTicks = snapTicks(
      Math.max(0, Math.round(time.ticksAt(Math.max(0, startSeconds)))),
      step,
      time,
    );
    placed.set(startTicks, { id: createId(), startTicks, chord });
  }
  return [...placed.values()].filter(
    (change, i, all) => i === 0 || !sameSound(change.chord, all[i - 1].chord),
  );
}

const inOrder = (presses: readonly Press[]) => [...presses].sort((a, b) => a.startSeconds - b.startSeconds);
