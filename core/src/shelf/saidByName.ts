/**
 * What the name of a recording says of its tempo and key, where what is heard does not speak against it. Who makes loops writes both into
 * their names, and knows better than any reader which of two tempi and which of two related keys is meant.
 */
import type { Seconds } from '../signal/index.ts';
import { beatsPerMinute, quartersPerMinute } from '../song/index.ts';
import { keyNamed, mod12, tonicPitchClass, type Key } from '../theory/index.ts';
import type { ShelfMetre } from './item.ts';

export interface TempoSaid {
  /** Quarter notes a minute. */
  bpm: number;
  /** The name says that the number is a tempo: what is so many whole beats long goes round. */
  inWords: boolean;
}

/** "96 bpm" */
const WITH_UNIT = /(?<![\d.])(\d{2,3}(?:\.\d+)?)[\s_-]*bpm/i;
/** A number of its own, of nothing else that is counted in names of sounds. */
const BARE = /(?<![\d.,#])\d{2,3}(?![\d.,]|\s*(?:k?hz|k|bits?|db|ms|s|sec|bars?|st|nd|rd|th)\b)/gi;
const TEMPI_IN_WORDS = [30, 300] as const;
const BARE_TEMPI = [50, 220] as const;
/** A tempo that a whole number of beats agrees with, to within this, may be meant. */
const AGREES_BEATS = 0.06;
const FEWEST_BEATS = 1.5;
/** A tempo is heard as another up to this share of it. */
const SAME_TEMPO = 0.03;

/** "F#m", "Bb major", "C♯ min", but no chord such as "Cmaj7". */
const KEY =
  /(?<![A-Za-z#♯♭])([A-G])([#♯b♭]?)(m|[\s-]?(?:[Mm]aj(?:or)?|MAJ(?:OR)?|[Mm]in(?:or)?|MIN(?:OR)?))(?![A-Za-z0-9#♯])/;

/** "shaker 96bpm.wav" → 96; undefined where the name says none. */
export function bpmInName(name: string): number | undefined {
  const bpm = Number(WITH_UNIT.exec(name)?.[1]);
  return bpm >= TEMPI_IN_WORDS[0] && bpm <= TEMPI_IN_WORDS[1] ? bpm : undefined;
}

/** Quarter notes a minute, and the metre: as they were heard. */
interface TempoHeard {
  bpm: number;
  metre: ShelfMetre;
}

/** @param heard undefined where no beat was */
export function tempoSaid(
  name: string,
  durationSeconds: Seconds,
  heard: TempoHeard | undefined,
): TempoSaid | undefined {
  const worded = bpmInName(name);
  const fills = (bpm: number) => {
    const beats = (durationSeconds * bpm) / 60;
    return beats >= FEWEST_BEATS && Math.abs(beats - Math.round(beats)) < AGREES_BEATS;
  };
  if (worded !== undefined)
    return fills(worded) ? { bpm: inQuarters(worded, heard) ?? worded, inWords: true } : undefined;
  for (const [digits] of name.matchAll(BARE)) {
    const bpm = Number(digits);
    if (bpm < BARE_TEMPI[0] || bpm > BARE_TEMPI[1] || !fills(bpm)) continue;
    // A bare number may mean anything: it only says which of the tempi that may have been heard is right.
    const quarters = inQuarters(bpm, heard);
    if (quarters !== undefined) return { bpm: quarters, inWords: false };
  }
  return undefined;
}

/** Quarter notes a minute of a tempo that counts either these or the beats that were heard; undefined where neither was heard, nor twice or half of it. */
function inQuarters(bpm: number, heard: TempoHeard | undefined): number | undefined {
  if (!heard) return undefined;
  if (isNear(bpm, beatsPerMinute(heard.bpm, heard.metre))) return quartersPerMinute(bpm, heard.metre);
  return isNear(bpm, heard.bpm) ? bpm : undefined;
}

/** Whether two tempi are the same, or one is twice the other. */
function isNear(a: number, b: number): boolean {
  const octaves = Math.log2(a / b);
  return Math.abs(octaves) < 1.5 && Math.abs(octaves - Math.round(octaves)) < Math.log2(1 + SAME_TEMPO);
}

/** @param heard undefined where none was */
export function keySaid(name: string, heard: Key | undefined): Key | undefined {
  const [, letter, accidental, mode] = KEY.exec(name) ?? [];
  if (!letter) return undefined;
  const tonic = letter + accidental.replace('♯', '#').replace('♭', 'b');
  const key = keyNamed(tonic, /^\W*(m|min.*)$/i.test(mode) ? 'minor' : 'major');
  return key && (!heard || areRelated(key, heard)) ? key : undefined;
}

/** Whether they have all notes of their scales in common but one, or the tonic. */
function areRelated(a: Key, b: Key): boolean {
  const apart = mod12(a.fifths - b.fifths);
  return apart <= 1 || apart === 11 || tonicPitchClass(a) === tonicPitchClass(b);
}
