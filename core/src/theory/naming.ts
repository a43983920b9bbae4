/** The name of notes that are played together. */
import { chordOn, KNOWN_DEGREES, semitonesOf, type Chord } from './chord.ts';
import { mod12 } from './pitch.ts';
import type { Key } from './key.ts';
import { pitchClassOf } from './spelling.ts';

/** What counts against a name, by common practice: a bass that is not the root, a missing fifth. */
const OTHER_BASS_COST = 100;
const NO_FIFTH_COST = 150;
/** A sixth chord that does not stand on its root is called by its seventh: A♭6 over C is Fm7/C. */
const TURNED_SIXTH_COST = 40;
/** A triad or seventh without its fifth is played often; with fewer notes anything could be meant. */
const MIN_CLASSES_WITHOUT_FIFTH = 3;

/**
 * The chord that MIDI notes make; the lowest is its bass. Undefined where there is none: a single pitch class, or a
 * cluster without a common name. Of several names (C6 is Am7) the one over its own root is taken, then the simpler one.
 */
export function chordOfNotes(midis: readonly number[], key: Key | null): Chord | undefined {
  const classes = new Set(midis.map((midi) => mod12(Math.round(midi))));
  if (classes.size < 2) return undefined;
  const bass = mod12(Math.round(Math.min(...midis)));
  let best: { chord: Chord; cost: number } | undefined;
  for (const root of classes) {
    const above = new Set([...classes].map((each) => mod12(each - root)));
    KNOWN_DEGREES.forEach((degrees, rank) => {
      const turned = degrees.includes('6') ? OTHER_BASS_COST + TURNED_SIXTH_COST : OTHER_BASS_COST;
      const cost = rank + (root === bass ? 0 : turned);
      const full = fits(above, degrees)
        ? cost
        : classes.size >= MIN_CLASSES_WITHOUT_FIFTH &&
            fits(
              above,
              degrees.filter((each) => each !== '5'),
            )
          ? cost + NO_FIFTH_COST
          : Infinity;
      if (full < (best?.cost ?? Infinity)) best = { chord: chordOn(root, degrees, key, bass), cost: full };
    });
  }
  // A triad over a bass of its own: D under C E G.
  if (!best && classes.size > MIN_CLASSES_WITHOUT_FIFTH) {
    const upper = chordOfNotes(
      midis.filter((midi) => mod12(Math.round(midi)) !== bass),
      key,
    );
    if (upper && !upper.bass) return chordOn(pitchClassOf(upper.root)!, upper.degrees, key, bass);
  }
  return best?.chord;
}

function fits(above: ReadonlySet<number>, degrees: readonly string[]): boolean {
  const wanted = new Set(degrees.map((degree) => mod12(semitonesOf(degree))));
  return wanted.size === above.size && [...wanted].every((each) => above.has(each));
}
