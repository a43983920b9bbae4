/** What speaks for and against a note that was found: its own evidence, and the notes around it. */
import { clamp } from '../../signal/index.ts';

/** A note that was found, with what was measured of it. */
export interface FoundNote {
  /** 0–87. */
  key: number;
  startFrame: number;
  endFrame: number;
  /** Peak of its onset activation and mean of its sounding, 0–1. */
  onset: number;
  sounding: number;
  /** Mean of the onset activation over five frames around the peak, 0–1. */
  spread: number;
  /** Level of its first frames in dB below full scale, and how much louder they are than those before. */
  levelDb: number;
  riseDb: number;
}

/** Notes that start within so many frames of each other belong to one stroke or chord: 58 ms. */
const TOGETHER_FRAMES = 5;
/** Around a note others are looked at within so many frames: 6 s. */
const NEAR_FRAMES = 516;
/** A key that starts again so soon is hardly struck twice: 128 ms. */
const AGAIN_FRAMES = 11;
/** A key that sounded up to so many frames before rings still. */
const RINGING_FRAMES = 3;
/** Semitones from a tone to its harmonics 2–6. */
const HARMONIC_STEPS = new Set([12, 19, 24, 28, 31]);
const NEIGHBOUR_SEMITONES = 2;

/** A note and how well it shows, 0–1. */
interface Neighbour extends FoundNote {
  strength: number;
}

/**
 * For each note numbers of about 0–1: its evidence, what starts with it, what it could be a harmonic of, whether its key
 * is played elsewhere or sounds already.
 * @param notes in order of their start
 */
export function contextOf(notes: readonly FoundNote[]): Float32Array[] {
  const all = notes.map((note): Neighbour => ({ ...note, strength: note.onset * note.sounding }));
  let from = 0;
  let to = 0;
  return all.map((note) => {
    while (all[from].startFrame < note.startFrame - NEAR_FRAMES) from++;
    while (to < all.length && all[to].startFrame <= note.startFrame + NEAR_FRAMES) to++;
    return inputsOf(note, all, from, to);
  });
}

function inputsOf(note: Neighbour, all: readonly Neighbour[], from: number, to: number): Float32Array {
  let loudestDb = note.levelDb;
  let together = 0;
  let bestTogether = 0;
  let harmonicOfNew = 0;
  let harmonicOfOld = 0;
  let neighbour = 0;
  let sameKey = 0;
  let sameKeySum = 0;
  let again = 0;
  let ringing = 0;
  for (let i = from; i < to; i++) {
    const other = all[i];
    if (other === note) continue;
    const { strength } = other;
    const later = other.startFrame - note.startFrame;
    const now = Math.abs(later) <= TOGETHER_FRAMES;
    const above = note.key - other.key;
    if (now) {
      loudestDb = Math.max(loudestDb, other.levelDb);
      together += strength;
      bestTogether = Math.max(bestTogether, strength);
    }
    if (above === 0) {
      if (!now) {
        sameKey = Math.max(sameKey, strength);
        sameKeySum += strength;
      }
      if (later < 0 && -later <= AGAIN_FRAMES) again = Math.max(again, strength);
      if (later < 0 && other.endFrame >= note.startFrame - RINGING_FRAMES) ringing = 1;
    } else if (HARMONIC_STEPS.has(above)) {
      // A harmonic is hardly louder than its tone.
      const claim = strength * clamp((other.levelDb - note.levelDb + 12) / 24, 0, 1);
      if (now) harmonicOfNew = Math.max(harmonicOfNew, claim);
      else if (later < 0 && other.endFrame > note.startFrame) harmonicOfOld = Math.max(harmonicOfOld, claim);
    } else if (now && Math.abs(above) <= NEIGHBOUR_SEMITONES) neighbour = Math.max(neighbour, strength);
  }
  return Float32Array.of(
    note.onset,
    note.sounding,
    note.spread,
    clamp(Math.log2(note.endFrame - note.startFrame) / 8, 0, 1),
    clamp((note.levelDb - loudestDb) / 40 + 1, 0, 1),
    clamp(note.riseDb / 20, -0.5, 1),
    clamp(together / 4, 0, 1),
    bestTogether,
    harmonicOfNew,
    harmonicOfOld,
    neighbour,
    sameKey,
    clamp(sameKeySum / 8, 0, 1),
    again,
    ringing,
  );
}
