/**
 * Parts that follow the chords: the rhythm stays, notes go where they fit the chord that stands there now. Two choices:
 *
 * - aim: notes of the chord, or notes of the scale
 * - way: travel with the root and adapt the quality (source A major, target C minor: all notes +3, then the major third one
 *   semitone down), or step to the nearest
 *
 * Notes that were passing notes over the chord they were written over stay passing notes. Where that chord is not known
 * only stepping to the nearest makes sense, so that is done whatever the way.
 */
import {
  bassOf,
  degreeOf,
  mod12,
  pitchClassesOf,
  pitchClassOf,
  semitonesOf,
  type Chord,
  type ChordOrNone,
  type Key,
} from '../theory/index.ts';

export const AIMS = ['chord', 'scale'] as const;
export const WAYS = ['root', 'nearest'] as const;
export type Aim = (typeof AIMS)[number];
export type Way = (typeof WAYS)[number];

export interface FollowSettings {
  aim: Aim;
  way: Way;
  /** What lay on the bass of the chord goes to the bass of the new one: for bass parts. */
  bassOnBass: boolean;
}

/**
 * Where a note goes. Held notes never end a semitone from a note of the chord, unless they are one themselves; short ones
 * may, as passing notes do.
 * @param from the chord it was written over; undefined: not known; null: none
 * @param to the chord that stands there now; undefined or null: nothing to follow, the note stays
 */
export function followNote(
  midi: number,
  from: ChordOrNone | undefined,
  to: ChordOrNone | undefined,
  key: Key | null,
  settings: FollowSettings,
  held = true,
): number {
  if (!to || (from && alike(from, to))) return midi;
  const targets = (aim: Aim) => targetsOf(to, key, aim).filter((each) => !held || !clashes(each, to));
  if (!from) return inRange(stepTo(midi, targets(settings.aim)));
  if (settings.bassOnBass && mod12(midi) === bassOf(from)) return inRange(stepTo(midi, [bassOf(to)]));
  const degree = from.degrees.find(
    (each) => mod12(midi) === mod12(pitchClassOf(from.root)! + semitonesOf(each)),
  );
  // A passing note leads through the scale of the key, or over what both know.
  const passing = degree === undefined;
  if (settings.way === 'nearest') return inRange(stepTo(midi, targets(passing ? 'scale' : settings.aim)));
  const travel = shortest(pitchClassOf(to.root)! - pitchClassOf(from.root)!);
  const travelled = midi + travel;
  if (passing) return inRange(stepTo(travelled, targets('scale')));
  const counterpart = counterpartOf(degree, to);
  if (counterpart !== undefined) {
    const pitchClass = mod12(pitchClassOf(to.root)! + semitonesOf(counterpart));
    return inRange(stepTo(travelled, [pitchClass]));
  }
  return inRange(stepTo(travelled, targets(settings.aim)));
}

/** What sounds with a chord: its notes and its bass. */
function harmonyOf(chord: Chord): number[] {
  return [...pitchClassesOf(chord), bassOf(chord)];
}

/** Whether a pitch class rubs against the chord: a semitone from one of its notes without being one. */
export function clashes(pitchClass: number, chord: Chord): boolean {
  const harmony = harmonyOf(chord);
  return (
    !harmony.includes(mod12(pitchClass)) &&
    harmony.some((each) => Math.abs(shortest(each - pitchClass)) === 1)
  );
}

/** The degree of a chord that does what another degree did: its third for a third, a sixth for a missing seventh. */
function counterpartOf(degree: string, to: Chord): string | undefined {
  const number = (each: string) => each.replace(/[b#]/g, '');
  const same = to.degrees.find((each) => number(each) === number(degree));
  if (same !== undefined) return same;
  const stands: Record<string, string[]> = {
    '3': ['4', '2'],
    '4': ['3'],
    '2': ['3', '9'],
    '9': ['2'],
    '7': ['6'],
    '6': ['7'],
  };
  const others = stands[number(degree)] as string[] | undefined;
  return to.degrees.find((each) => others?.includes(number(each)));
}

function targetsOf(to: Chord, key: Key | null, aim: Aim): number[] {
  const chord = pitchClassesOf(to);
  if (aim === 'chord' || !key) return aim === 'chord' ? chord : Array.from({ length: 12 }, (_, i) => i);
  // The scale, bent to the chord where that lies outside it: E♭ over C minor in C major.
  const bent = new Set(chord);
  for (let pitchClass = 0; pitchClass < 12; pitchClass++) {
    if (degreeOf(pitchClass, key) === undefined) continue;
    const beside = chord.some(
      (each) => degreeOf(each, key) === undefined && Math.abs(shortest(each - pitchClass)) === 1,
    );
    if (!beside) bent.add(pitchClass);
  }
  return [...bent];
}

/** The nearest note of the given pitch classes; of two equally near the lower. */
function stepTo(midi: number, pitchClasses: readonly number[]): number {
  const whole = Math.round(midi);
  for (let distance = 0; distance <= 6; distance++)
    for (const candidate of [whole - distance, whole + distance])
      if (pitchClasses.includes(mod12(candidate))) return candidate;
  return whole;
}

/** −5…6 semitones. */
function shortest(semitones: number): number {
  const up = mod12(semitones);
  return up > 6 ? up - 12 : up;
}

function alike(a: Chord, b: Chord): boolean {
  const set = (chord: Chord) => [...new Set(pitchClassesOf(chord))].sort((x, y) => x - y).join();
  return bassOf(a) === bassOf(b) && set(a) === set(b) && pitchClassOf(a.root) === pitchClassOf(b.root);
}

function inRange(midi: number): number {
  return midi < 0 ? midi + 12 : midi > 127 ? midi - 12 : midi;
}
