/** Which chords follow each other, as songwriters write them, and how long each lasts. */
import type { Random } from '@plundra/core/signal';
import {
  chordOn,
  chordsOfKey,
  mod12,
  pitchClassesOf,
  scaleSteps,
  tonicPitchClass,
  type Chord,
  type Key,
} from '@plundra/core/theory';

/**
 * How chords move: as songs have them; each lasting a beat or two; nearly all with sevenths, ninths and sixths or over another
 * bass; over a bass that stays.
 */
export type Manner = 'usual' | 'quick' | 'rich' | 'pedal';

export interface Span {
  /** In beats. */
  from: number;
  to: number;
  chord: Chord;
}

export const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)];
export const chance = (random: Random, p: number) => random() < p;
/**
 * Chords of the key by how common they are, some dominants of others and borrowed ones, coloured and inverted. Four in five
 * begin on the tonic, and as many come home to it in the last two bars: without either no listener could tell a key from
 * its relative.
 */
export function progression(
  random: Random,
  key: Key,
  bars: number,
  beatsInBar: number,
  manner: Manner,
): Span[] {
  const sevenths = random() * 0.7;
  const loops = chance(random, 0.6);
  const loop: Chord[] = [];
  const spans: Span[] = [];
  let beat = 0;
  const end = bars * beatsInBar;
  const cadence = chance(random, 0.8);
  const open = cadence ? end - 2 * beatsInBar : end;
  let index = 0;
  while (beat < open) {
    const r = random();
    const bar = beatsInBar;
    let length = r < 0.62 ? bar : r < 0.75 ? 2 * bar : r < 0.95 && bar !== 3 ? bar / 2 : bar;
    if (manner === 'quick') length = Math.min(r < 0.65 ? 1 : 2, bar - (beat % bar));
    else if (beat % bar !== 0) length = bar - (beat % bar);
    const again = loops && loop.length >= 4;
    const chord = again
      ? loop[index % 4]
      : coloured(
          random,
          key,
          nextRoot(random, key, spans.at(-1)?.chord),
          manner === 'rich' ? 'rich' : sevenths,
        );
    if (!again) loop.push(chord);
    index++;
    const to = Math.min(open, beat + length);
    addSpan(spans, beat, to, chord);
    beat = to;
  }
  if (cadence) {
    addSpan(spans, open, open + beatsInBar, leadingHome(random, key));
    addSpan(spans, open + beatsInBar, end, chordsOfKey(key)[0]);
  }
  return manner === 'pedal' ? overPedal(random, key, spans) : spans;
}

/** Triads over the tonic, or now and then the dominant, which stays in the bass for four chords and more. */
function overPedal(random: Random, key: Key, spans: readonly Span[]): Span[] {
  const over: Span[] = [];
  let pedal = tonicPitchClass(key);
  for (const [i, { from, to, chord }] of spans.entries()) {
    if (i % 4 === 0) pedal = mod12(tonicPitchClass(key) + (chance(random, 0.75) ? 0 : 7));
    // The chord on the third degree over the tonic is called the tonic's seventh, so it is left out.
    const third = mod12(pitchClassesOf(chord)[0] - pedal) === (chord.degrees.includes('b3') ? 4 : 3);
    const above = third || chord.degrees.includes('b5') ? chordsOfKey(key)[3] : chord;
    addSpan(over, from, to, chordOn(pitchClassesOf(above)[0], triadOf(above), key, pedal));
  }
  return over;
}

function addSpan(spans: Span[], from: number, to: number, chord: Chord): void {
  const last = spans.at(-1);
  if (last && JSON.stringify(last.chord) === JSON.stringify(chord)) last.to = to;
  else spans.push({ from, to, chord });
}

/** The dominant, with its raised third in minor and sometimes a seventh, or the subdominant. */
function leadingHome(random: Random, key: Key): Chord {
  if (chance(random, 0.3)) return chordsOfKey(key)[3];
  const root = mod12(tonicPitchClass(key) + 7);
  return chordOn(root, chance(random, 0.4) ? ['1', '3', '5', 'b7'] : ['1', '3', '5'], key);
}

const WEIGHTS = { major: [5, 3, 2, 4, 4, 4, 0.4, 0], minor: [5, 0.5, 3, 4, 2, 4, 3, 3] };

function nextRoot(random: Random, key: Key, before: Chord | undefined): Chord {
  const triads = chordsOfKey(key);
  const r = random();
  if (before && r < 0.07) {
    // The dominant of a degree that is not the first.
    const target = pick(random, triads.slice(1, 6));
    return chordOn(mod12(pitchClassesOf(target)[0] + 7), ['1', '3', '5', 'b7'], key);
  }
  if (before && r < 0.13 && key.mode === 'major')
    return pick(random, [
      chordOn(tonicPitchClass(key) + 10, ['1', '3', '5'], key),
      chordOn(tonicPitchClass(key) + 5, ['1', 'b3', '5'], key),
      chordOn(tonicPitchClass(key) + 8, ['1', '3', '5'], key),
    ]);
  const weights = WEIGHTS[key.mode]
    .slice(0, triads.length)
    .map((weight, i) => (before && triads[i].root === before.root ? weight * 0.1 : weight));
  if (!before && chance(random, 0.8)) return triads[0];
  let at = random() * weights.reduce((sum, weight) => sum + weight, 0);
  return triads[weights.findIndex((weight) => (at -= weight) < 0)] ?? triads[0];
}

function colour(random: Random, key: Key, triad: Chord, sevenths: number): Chord {
  let degrees = [...triad.degrees];
  const root = pitchClassesOf(triad)[0];
  const scale = scaleSteps(key).map((step) => mod12(step + tonicPitchClass(key)));
  const fits = (semitones: number) => scale.includes(mod12(root + semitones));
  const plain = degrees.join(' ') === '1 3 5' || degrees.join(' ') === '1 b3 5';
  if (degrees.length === 3 && chance(random, sevenths)) degrees.push(fits(11) ? '7' : 'b7');
  else if (plain && chance(random, 0.1))
    degrees = chance(random, 0.5) || !fits(5) ? ['1', '2', '5'] : ['1', '4', '5'];
  else if (plain && chance(random, 0.06) && fits(9)) degrees.push('6');
  else if (plain && chance(random, 0.06) && fits(2)) degrees.push('9');
  if (degrees.length === 4 && degrees.includes('b7') && chance(random, 0.08)) degrees.push('9');
  const inverted = chance(random, 0.14);
  const bass = inverted
    ? pitchClassesOf({ ...triad, degrees: triad.degrees })[chance(random, 0.6) ? 1 : 2]
    : root;
  return chordOn(root, degrees, key, bass);
}

const triadOf = ({ degrees }: Chord) => (degrees.includes('b3') ? ['1', 'b3', '5'] : ['1', '3', '5']);

const RICH: Record<'major' | 'minor' | 'dominant', readonly (readonly string[])[]> = {
  major: [
    ['1', '3', '5', '7', '9'],
    ['1', '3', '5', '6', '9'],
    ['1', '3', '5', '9'],
    ['1', '3', '5', '7'],
    ['1', '3', '5', '6'],
  ],
  minor: [
    ['1', 'b3', '5', 'b7', '9'],
    ['1', 'b3', '5', '9'],
    ['1', 'b3', '5', 'b7'],
    ['1', 'b3', '5', 'b7', '11'],
  ],
  dominant: [
    ['1', '3', '5', 'b7', '9'],
    ['1', '4', '5', 'b7'],
    ['1', '3', '5', 'b7', '13'],
    ['1', '4', '5', 'b7', '9'],
  ],
};

/** A triad with more notes, or over one of its own that is not its root. */
function coloured(random: Random, key: Key, triad: Chord, how: number | 'rich'): Chord {
  if (how !== 'rich') return colour(random, key, triad, how);
  const root = pitchClassesOf(triad)[0];
  const scale = scaleSteps(key).map((step) => mod12(step + tonicPitchClass(key)));
  const minor = triad.degrees.includes('b3');
  if (triad.degrees.includes('b5')) return colour(random, key, triad, 1);
  const seventh = scale.includes(mod12(root + 11)) ? 'major' : 'dominant';
  const degrees = pick(random, RICH[minor ? 'minor' : seventh]);
  if (chance(random, 0.7)) return chordOn(root, [...degrees], key);
  // Am7/C is called C6, and C6/A Am7: what stands over another bass is a triad or has its third and fifth to itself.
  const plain = minor || chance(random, 0.5);
  const bass = mod12(root + (minor || chance(random, 0.4) ? 7 : 4));
  return chordOn(root, plain ? triad.degrees : ['1', '3', '5', seventh === 'major' ? '7' : 'b7'], key, bass);
}
