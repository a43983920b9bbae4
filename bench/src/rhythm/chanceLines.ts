/** Rhythms of lines and of picked chords by chance, for training: what comes again, what is tied over, and where one breathes. */
import type { Random } from '@plundra/core/signal';
import type { Metre } from './patterns.ts';

const chance = (random: Random, p: number) => random() < p;

/** How beats are filled: onsets in steps of a beat, of two steps, three and four; "" is a beat that is held over. */
const CELLS: Record<2 | 3 | 4, readonly (readonly [share: number, onsets: readonly number[]])[]> = {
  2: [
    [5, [0]],
    [5, [0, 1]],
    [1.5, [1]],
    [1.5, []],
  ],
  3: [
    [4, [0]],
    [4, [0, 2]],
    [3, [0, 1, 2]],
    [1, [0, 1]],
    [0.6, [2]],
    [1, []],
  ],
  4: [
    [4, [0]],
    [4, [0, 2]],
    [2, [0, 3]],
    [2, [0, 1, 2, 3]],
    [2, [0, 2, 3]],
    [1.5, [0, 1, 2]],
    [1, [0, 1, 3]],
    [1, [2]],
    [0.7, [3]],
    [1.2, []],
  ],
};

export interface LineRhythm {
  steps: 2 | 3 | 4;
  /** Of each bar: whether something starts at a step. */
  bars: boolean[][];
}

/** Steps of a beat that a line can be played in: sixteenths only where there is time for them. */
export function chanceSteps(random: Random, { compound }: Metre, beatSeconds: number): 2 | 3 | 4 {
  if (compound) return 3;
  return beatSeconds > 0.42 && chance(random, 0.45) ? 4 : 2;
}

/**
 * A rhythm of cells for so many bars: phrases of two or four bars whose bars are like each other (a a b, a b a c …), the last
 * of which may end early for a breath.
 */
export function chanceLine(random: Random, metre: Metre, steps: 2 | 3 | 4, bars: number): LineRhythm {
  const few = 1 + Math.floor(3 * random());
  const cells = Array.from({ length: few + 1 }, () => drawnCell(random, steps));
  const beatLike = 0.3 + 0.7 * random();
  const upbeats = chance(random, 0.3);
  const bar = () => {
    const onsets = new Array<boolean>(metre.beats * steps).fill(false);
    for (let beat = 0; beat < metre.beats; beat++) {
      const cell = chance(random, 0.8)
        ? cells[Math.floor(random() * cells.length)]
        : drawnCell(random, steps);
      for (const onset of cell) onsets[beat * steps + onset] = true;
      // The first beat is seldom held over.
      if (beat === 0 && chance(random, beatLike)) onsets[0] = true;
    }
    return onsets;
  };
  const kinds = [bar(), bar(), bar()];
  const phraseBars = chance(random, 0.6) ? 4 : 2;
  const order = Array.from({ length: phraseBars }, () => Math.floor(random() * kinds.length));
  const breathes = chance(random, 0.5);
  return {
    steps,
    bars: Array.from({ length: bars }, (_, i) => {
      const onsets = chance(random, 0.12) ? bar() : [...kinds[order[i % phraseBars]]];
      if (breathes && i % phraseBars === phraseBars - 1) {
        const from = Math.ceil(onsets.length / 2);
        for (let step = from; step < onsets.length; step++)
          onsets[step] = upbeats && step >= onsets.length - steps ? onsets[step] : false;
      }
      return onsets;
    }),
  };
}

function drawnCell(random: Random, steps: 2 | 3 | 4): readonly number[] {
  const cells = CELLS[steps];
  let left = random() * cells.reduce((sum, [share]) => sum + share, 0);
  for (const [share, onsets] of cells) {
    left -= share;
    if (left < 0) return onsets;
  }
  return cells[0][1];
}
