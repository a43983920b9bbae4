/**
 * Drum patterns and strums by chance, for training: what keeps time, where the kick and the snare lie, and how much comes
 * between them, each drawn on its own, so that a reader learns what makes a beat and not a list of patterns.
 */
import type { Random } from '@plundra/core/signal';
import { KEYS, METRES, type DrumPattern, type Metre } from './patterns.ts';

const chance = (random: Random, p: number) => random() < p;

function drawn<T>(random: Random, list: readonly (readonly [share: number, value: T])[]): T {
  let left = random() * list.reduce((sum, [share]) => sum + share, 0);
  for (const [share, value] of list) {
    left -= share;
    if (left < 0) return value;
  }
  return list[list.length - 1][1];
}

type Sign = 'X' | 'x' | '.';
/** What a line plays at each step of a bar. */
type Line = (step: number) => Sign;

interface Bar {
  random: Random;
  metre: Metre;
  steps: 2 | 3 | 4;
}

/**
 * A pattern of one or two bars, in any metre unless one is asked for. @param floor the kick plays every beat and little else, as machines
 * have it for dancing
 */
export function chancePattern(random: Random, asked?: Metre, floor = false): DrumPattern {
  const any = drawn(random, [
    [0.5, METRES.FOUR],
    [0.14, METRES.THREE],
    [0.12, METRES.SIX_EIGHT],
    [0.06, METRES.TWELVE_EIGHT],
    [0.08, METRES.TWO],
    [0.07, METRES.FIVE],
    [0.05, METRES.SEVEN],
  ]);
  const metre = asked ?? any;
  const steps = metre.compound
    ? 3
    : drawn(random, [
        [0.5, 2],
        [0.4, 4],
        [0.1, 3],
      ] as const);
  const bars = chance(random, 0.4) ? 2 : 1;
  const bar: Bar = { random, metre, steps };
  const voices: [key: number, line: Line][] = [];
  const keeper = chance(random, 0.9) ? (floor ? overTheFloor(bar) : timekeeper(bar)) : undefined;
  if (keeper) voices.push([drawn(random, TIMEKEEPERS), keeper]);
  if (floor || chance(random, 0.88)) voices.push([KEYS.KICK, floor ? everyBeat(bar) : kick(bar)]);
  if (chance(random, floor ? 0.5 : 0.82))
    voices.push([
      drawn(random, [
        [0.75, KEYS.SNARE],
        [0.25, KEYS.STICK],
      ]),
      snare(bar),
    ]);
  if (chance(random, voices.length < 2 ? 0.95 : 0.3))
    voices.push([
      drawn(random, [
        [1, KEYS.CONGA],
        [1, KEYS.SLAP],
        [1, KEYS.TOM],
        [1, KEYS.TAMBOURINE],
      ]),
      scattered(bar, 0.35),
    ]);
  const perBar = metre.beats * steps;
  const lines = voices.map(([key, line]) => {
    const once = Array.from({ length: perBar }, (_, step) => line(step));
    const again = once.map((sign, step) => (step > 0 && chance(random, 0.15) ? line(step) : sign));
    return [key, [...once, ...(bars === 2 ? again : [])].join('')] as const;
  });
  const bpm: DrumPattern['bpm'] = metre.compound ? [44, 140] : steps === 4 ? [54, 138] : [60, 200];
  return { name: 'chance', metre, steps, bpm, lines, ...(steps !== 3 && { swings: true as const }) };
}

const TIMEKEEPERS = [
  [0.45, 42],
  [0.15, 51],
  [0.1, 46],
  [0.12, 70],
  [0.08, 54],
  [0.05, 37],
  [0.05, 44],
] as const;

function timekeeper({ random, metre, steps }: Bar): Line {
  const accents = drawn(random, [
    [0.6, 'beat'],
    [0.25, 'none'],
    [0.15, 'between'],
  ] as const);
  const loud = (step: number): Sign => {
    const onBeat = step % steps === 0;
    return accents === 'none' ? 'x' : (accents === 'beat') === onBeat ? 'X' : 'x';
  };
  const way = drawn(random, [
    [0.34, 'all'],
    [steps === 4 ? 0.3 : 0, 'half'],
    [0.16, 'beats'],
    [steps === 3 ? 0 : 0.1, 'between'],
    [0.1, 'skip'],
    [0.1, 'chance'],
  ] as const);
  const odds = Array.from({ length: metre.beats * steps }, (_, step) =>
    chance(random, step % steps === 0 ? 0.8 : 0.5),
  );
  return (step) => {
    const inBeat = step % steps;
    const beat = Math.floor(step / steps);
    const plays =
      way === 'all'
        ? true
        : way === 'half'
          ? inBeat % 2 === 0
          : way === 'beats'
            ? inBeat === 0
            : way === 'between'
              ? inBeat === steps / 2
              : way === 'skip'
                ? inBeat === 0 || (beat % 2 === 1 && inBeat === steps - 1)
                : odds[step];
    return plays ? loud(step) : '.';
  };
}

/** Most often between the beats. */
function overTheFloor(bar: Bar): Line {
  const { random, steps } = bar;
  if (steps === 3 || chance(random, 0.4)) return timekeeper(bar);
  return (step) => (step % steps === steps / 2 ? 'X' : '.');
}

function everyBeat({ random, steps }: Bar): Line {
  const extra = chance(random, 0.25) ? 0.06 : 0;
  return (step) => (step % steps === 0 ? 'X' : chance(random, extra) ? 'x' : '.');
}

function kick({ random, metre, steps }: Bar): Line {
  const { beats } = metre;
  const middle = beats === 4 ? 2 : beats === 5 ? 3 : beats === 7 ? 4 : beats;
  const way = drawn(random, [
    [0.34, 'halves'],
    [0.16, 'beats'],
    [0.18, 'first'],
    [0.08, 'late'],
    [0.05, 'between'],
  ] as const);
  const extra = drawn(random, [
    [0.4, 0],
    [0.35, 0.15],
    [0.25, 0.3],
  ]);
  return (step) => {
    const onBeat = step % steps === 0;
    const beat = step / steps;
    const main =
      way === 'halves'
        ? beat === 0 || beat === middle
        : way === 'beats'
          ? onBeat
          : way === 'first'
            ? step === 0
            : way === 'late'
              ? beat === middle || (beats !== 4 && beat === beats - 1)
              : step % steps === Math.floor(steps / 2) && beat > 0;
    if (main) return 'X';
    return way !== 'late' && chance(random, onBeat ? extra / 2 : extra) ? 'x' : '.';
  };
}

function snare({ random, metre, steps }: Bar): Line {
  const { beats } = metre;
  const back =
    beats === 4 ? [1, 3] : beats === 3 ? [1, 2] : beats === 5 ? [1, 3, 4] : beats === 7 ? [1, 3, 5] : [1];
  const way = drawn(random, [
    [0.5, 'back'],
    [0.14, 'middle'],
    [0.08, 'beats'],
    [steps === 3 ? 0 : 0.08, 'between'],
    [0.08, 'rolling'],
    [0.12, 'chance'],
  ] as const);
  const ghosts = chance(random, 0.3) ? 0.25 : 0;
  const last = chance(random, 0.4) ? back.slice(-1) : back;
  return (step) => {
    const onBeat = step % steps === 0;
    const beat = step / steps;
    switch (way) {
      case 'back':
        return last.includes(beat) ? 'X' : chance(random, ghosts) ? 'x' : '.';
      case 'middle':
        return beat === (beats === 4 ? 2 : beats - 1) ? 'X' : chance(random, ghosts) ? 'x' : '.';
      case 'beats':
        return onBeat ? 'X' : chance(random, ghosts) ? 'x' : '.';
      case 'between':
        return step % steps === steps / 2 ? 'X' : '.';
      case 'rolling':
        return onBeat ? 'X' : chance(random, 0.75) ? 'x' : '.';
      case 'chance':
        return chance(random, onBeat ? 0.35 : 0.2) ? (chance(random, 0.5) ? 'X' : 'x') : '.';
    }
  };
}

/** The first of a bar nearly always, beats more often than what lies between. */
function scattered({ random, steps }: Bar, share: number): Line {
  return (step) => {
    const likely = step === 0 ? 0.85 : step % steps === 0 ? share + 0.2 : share;
    if (!chance(random, likely)) return '.';
    return chance(random, step % steps === 0 ? 0.6 : 0.25) ? 'X' : 'x';
  };
}

/** Strums of a bar as composeRhythm reads them: "D" down, "u" up, "x" muted. */
export function chanceStrums(random: Random, { beats, compound }: Metre): string {
  const steps = compound ? 3 : 2;
  const between = drawn(random, [
    [0.3, 0],
    [0.4, 0.5],
    [0.3, 0.95],
  ]);
  const onBeats = drawn(random, [
    [0.7, 0.95],
    [0.2, 0.6],
    [0.1, 0.1],
  ]);
  const muted = chance(random, 0.25) ? 0.4 : 0;
  const text = Array.from({ length: beats * steps }, (_, step) => {
    const onBeat = step % steps === 0;
    if (!chance(random, step === 0 ? Math.max(onBeats, 0.7) : onBeat ? onBeats : between)) return '.';
    if (step > 0 && chance(random, muted)) return 'x';
    return onBeat || (compound && chance(random, 0.5)) ? 'D' : 'u';
  }).join('');
  return /[Du]/.test(text) ? text : `D${text.slice(1)}`;
}

/** One to three strokes in a bar wherever they fall, most often the first of them on the bar line. */
export function chanceSparseStrums(random: Random, { beats, compound }: Metre): string {
  const steps = compound ? 3 : 2;
  const text = Array.from({ length: beats * steps }, () => '.');
  const strokes = drawn(random, [
    [0.25, 1],
    [0.4, 2],
    [0.35, 3],
  ]);
  if (chance(random, 0.75)) text[0] = 'D';
  while (text.filter((sign) => sign !== '.').length < Math.min(strokes, beats * steps))
    text[Math.floor(random() * text.length)] = 'D';
  return text.join('');
}
