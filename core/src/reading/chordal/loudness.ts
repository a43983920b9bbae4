/**
 * How hard each note of a chordal recording was struck. What is measured at a note's start says little alone: it holds what
 * rings on and what is struck beside it, and strings and keys are not equally loud. A linear model over measures of the note
 * and of those around it, fitted by bench/src/training/fitVelocities.ts, says how many dB it is louder than the mean of all.
 */
import { velocityOfLevel } from '../noteMeasures.ts';
import type { Activations } from './activations.ts';
import { FLOOR_DB, STEP_DB } from './frontEnd.ts';
import { KEYS } from './network.ts';
import type { FoundNote } from './noteContext.ts';
import weights from './velocityWeights.json' with { type: 'json' };

export const LOUDNESS_INPUTS = 12;

/** Semitones from a key to its harmonics 1–8. */
const HARMONICS = [0, 12, 19, 24, 28, 31, 34, 36];
/** The first of them carry most of a tone. */
const STRONG = 4;
/** The loudest of so many frames from the start on counts: 105 ms; what lies before them is what rang already. */
const AFTER_FRAMES = 9;
const BEFORE_FRAMES = [6, 2] as const;
/** This share of what rang is taken off, and never more than leaves this much of the whole. */
const RINGING_SHARE = 0.8;
const MOST_OFF_DB = 12;
/** Notes that start within so many frames of each other are struck together: 58 ms. */
const TOGETHER_FRAMES = 5;
/** A key's own loudness counts as if the mean of all had been heard on it so many times besides. */
const DOUBT_NOTES = 2;
/** Notes that ring on are looked for among so many before. */
const RINGING_NOTES = 60;
/** Up to its sixth harmonic a note can be taken for louder than it is played. */
const HIGHEST_CLAIM = 31;
/** Said of a note under which no other has it as a harmonic. */
const NOTHING_BELOW_DB = -30;

/** Velocity 1–127 of each note. @param notes in order of their start */
export function velocitiesOf(notes: readonly FoundNote[], activations: Activations): number[] {
  const meanDb = meanOf(notes.map(({ levelDb }) => levelDb));
  return loudnessInputs(notes, activations).map((inputs) => {
    let levelDb = meanDb;
    for (let k = 0; k < LOUDNESS_INPUTS; k++) levelDb += weights[k] * inputs[k];
    return velocityOfLevel(levelDb);
  });
}

/**
 * For each note what the model looks at, without the mean over all notes.
 * @param notes in order of their start
 */
export function loudnessInputs(notes: readonly FoundNote[], activations: Activations): Float64Array[] {
  const struck = notes.map((note) => strokeOf(note, activations));
  const sums = new Float64Array(KEYS);
  const counts = new Float64Array(KEYS);
  for (const { note, struckDb } of struck) {
    sums[note.key] += struckDb;
    counts[note.key]++;
  }
  const meanStruckDb = meanOf(struck.map(({ struckDb }) => struckDb));
  let [from, to] = [0, 0];
  const inputs = struck.map((own) => {
    const { note, newDb, struckDb, wholeDb, partsDb, newPartsDb } = own;
    while (struck[from].note.startFrame < note.startFrame - TOGETHER_FRAMES) from++;
    while (to < struck.length && struck[to].note.startFrame <= note.startFrame + TOGETHER_FRAMES) to++;
    const together = struck.slice(from, to);
    const lowest = together.reduce((low, other) => Math.min(low, other.note.key), note.key);
    const others = counts[note.key] - 1;
    const sumOfOthers = sums[note.key] - struckDb;
    return Float64Array.of(
      newDb,
      partsDb[0],
      note.onset,
      (sumOfOthers + DOUBT_NOTES * meanStruckDb) / (others + DOUBT_NOTES),
      note.key - lowest,
      wholeDb,
      partsDb[1],
      newPartsDb,
      together.length,
      others / 10,
      note.levelDb,
      claimDb(note, struck, from, to),
    );
  });
  for (let k = 0; k < LOUDNESS_INPUTS; k++) {
    const mean = meanOf(inputs.map((each) => each[k]));
    for (const each of inputs) each[k] -= mean;
  }
  return inputs;
}

/** Levels at the start of a note in dB, in short windows. */
interface Stroke {
  note: FoundNote;
  /** Of its first harmonics, without what rang before, and with it; of all of them. */
  newDb: number;
  struckDb: number;
  wholeDb: number;
  /** Of the first two harmonics, and of the third without what rang before. */
  partsDb: readonly [number, number];
  newPartsDb: number;
}

function strokeOf(note: FoundNote, { frames, attack }: Activations): Stroke {
  const { key, startFrame } = note;
  const levelDb = (frame: number, at: number) => FLOOR_DB + STEP_DB * attack[frame * KEYS + at];
  const first = Math.max(0, startFrame - 1);
  const last = Math.min(frames, startFrame + AFTER_FRAMES - 1);
  const parts = HARMONICS.map((semitones) => {
    const at = key + semitones;
    if (at >= KEYS) return { loudDb: FLOOR_DB, newDb: FLOOR_DB };
    let loudDb = FLOOR_DB;
    for (let frame = first; frame < last; frame++) loudDb = Math.max(loudDb, levelDb(frame, at));
    let beforeDb = startFrame < BEFORE_FRAMES[1] ? FLOOR_DB : Infinity;
    for (
      let frame = Math.max(0, startFrame - BEFORE_FRAMES[0]);
      frame <= startFrame - BEFORE_FRAMES[1];
      frame++
    )
      beforeDb = Math.min(beforeDb, levelDb(frame, at));
    const risen = powerOf(loudDb) - RINGING_SHARE * powerOf(beforeDb);
    return { loudDb, newDb: Math.max(dbOf(risen), loudDb - MOST_OFF_DB) };
  });
  const sumDb = (values: readonly number[]) => dbOf(values.reduce((sum, db) => sum + powerOf(db), 0));
  const loud = parts.map(({ loudDb }) => loudDb);
  return {
    note,
    newDb: sumDb(parts.slice(0, STRONG).map(({ newDb }) => newDb)),
    struckDb: sumDb(loud.slice(0, STRONG)),
    wholeDb: sumDb(loud),
    partsDb: [loud[0], loud[1]],
    newPartsDb: parts[2].newDb,
  };
}

/** How much louder the loudest note is that sounds under this one and has it as a harmonic, in dB. */
function claimDb(note: FoundNote, struck: readonly Stroke[], from: number, to: number): number {
  let most = NOTHING_BELOW_DB;
  for (let i = Math.max(0, from - RINGING_NOTES); i < to; i++) {
    const other = struck[i].note;
    if (i < from && other.endFrame <= note.startFrame) continue;
    if (HARMONICS.indexOf(note.key - other.key) > 0 && note.key - other.key <= HIGHEST_CLAIM)
      most = Math.max(most, other.levelDb - note.levelDb);
  }
  return most;
}

const powerOf = (db: number) => 10 ** (db / 10);
const dbOf = (power: number) => 10 * Math.log10(Math.max(1e-13, power));
const meanOf = (values: readonly number[]) =>
  values.length > 0 ? values.reduce((sum, value) => sum + value, 0) / values.length : 0;
