/**
 * What could stand in a place of the chords instead, with reasons.
 *
 * score = 1 in the key (0.55 leads to the next chord, 0.45 borrowed) + 0.25 for each note shared with the chord before,
 * up to two + 0.6 if it leads home or to the next chord by a falling fifth − 0.04 for each semitone its voices move
 * from the chord before. The weights are ours, by ear.
 */
import {
  chordInKey,
  chordOn,
  chordsOfKey,
  functionOf,
  mod12,
  movement,
  pitchClassesOf,
  parallelKey,
  pitchClassOf,
  sameSound,
  tonicPitchClass,
  voiceChord,
  type Chord,
  type ChordFunction,
  type ChordOrNone,
  type Key,
} from '../theory/index.ts';

export interface Suggestion {
  chord: Chord;
  score: number;
  reasons: string[];
  does: ChordFunction;
  /** Semitones all voices move from the chord before, or from the one that stands here. */
  movement: number;
}

export interface Place {
  key: Key;
  before: ChordOrNone;
  here: ChordOrNone;
  after: ChordOrNone;
}

const BELONGS = { 'in the key': 1, 'leads to another chord': 0.55, borrowed: 0.45, 'outside the key': 0.2 };
const SHARED = 0.25;
const MAX_SHARED = 2;
const FALLING_FIFTH = 0.6;
const MOVEMENT = 0.04;
const MOST = 32;

export function suggestChords({ key, before, here, after }: Place): Suggestion[] {
  const from = before ?? here;
  const voiced = from ? voiceChord(from, { voicing: 'close' }) : [];
  const found: Suggestion[] = [];
  for (const chord of candidatesFor(key, after)) {
    if ((here && sameSound(chord, here)) || found.some((each) => sameSound(each.chord, chord))) continue;
    const { belongs } = chordInKey(chord, key);
    const reasons: string[] = [belongs];
    let score = BELONGS[belongs];
    if (from) {
      const classes = pitchClassesOf(from);
      const shared = pitchClassesOf(chord).filter((each) => classes.includes(each)).length;
      if (shared > 0) {
        score += SHARED * Math.min(MAX_SHARED, shared);
        reasons.push(
          `shares ${shared === 1 ? 'one note' : `${shared} notes`} with ${before ? 'the chord before' : 'this one'}`,
        );
      }
    }
    const root = pitchClassOf(chord.root)!;
    const falls = after && mod12(pitchClassOf(after.root)! - root) === 5;
    if (falls) {
      score += FALLING_FIFTH;
      const home = pitchClassOf(after.root) === tonicPitchClass(key);
      reasons.push(home ? 'leads home' : 'leads to the next chord by a fifth');
    }
    const moved = voiced.length > 0 ? movement(voiced, voiceChord(chord, { voicing: 'close' }, voiced)) : 0;
    found.push({
      chord,
      score: score - MOVEMENT * moved,
      reasons,
      does: functionOf(chord, key),
      movement: moved,
    });
  }
  return found.sort((a, b) => b.score - a.score).slice(0, MOST);
}

function candidatesFor(key: Key, after: ChordOrNone): Chord[] {
  const tonic = tonicPitchClass(key);
  // Spelled in the key of the song, not in the one they come from.
  const borrowed = chordsOfKey(parallelKey(key)).map((chord) =>
    chordOn(pitchClassOf(chord.root)!, chord.degrees, key),
  );
  const target = after ? pitchClassOf(after.root)! : tonic;
  return [
    ...chordsOfKey(key),
    ...chordsOfKey(key, true),
    chordOn(target + 7, ['1', '3', '5', 'b7'], key),
    chordOn(target + 1, ['1', '3', '5', 'b7'], key),
    chordOn(target + 11, ['1', 'b3', 'b5', 'bb7'], key),
    chordOn(tonic + 7, ['1', '4', '5'], key),
    chordOn(tonic, ['1', '3', '5', '9'], key),
    ...borrowed,
  ];
}
