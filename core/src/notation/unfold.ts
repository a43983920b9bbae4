/** The order in which the bars of a score are played: repeats, endings, from the start or the sign, to the coda or the end. */

/** What a bar says about where to go on. */
export interface BarSigns {
  repeatStart?: boolean;
  /** How often in all what ends here is played. */
  repeatEnd?: number;
  /** In which rounds this bar is played; absent: in all. */
  endings?: readonly number[];
  segno?: boolean;
  coda?: boolean;
  /** In the last round one goes from here to the coda, or ends. */
  toCoda?: boolean;
  fine?: boolean;
  /** From here back to the start or to the sign. */
  jump?: 'start' | 'segno';
}

/** A score that would go on for ever, or nearly. */
const MOST_BARS = 50_000;

/** Indices of bars in the order in which they are played. */
export function playedOrder(bars: readonly BarSigns[]): number[] {
  const order: number[] = [];
  let from = 0;
  let round = 1;
  let jumped = false;
  for (let i = 0; i < bars.length && order.length < MOST_BARS;) {
    const bar = bars[i];
    if (bar.repeatStart && i !== from) {
      from = i;
      round = 1;
    }
    if (bar.endings && !bar.endings.includes(jumped ? lastRoundOf(bars, i) : round)) {
      i++;
      continue;
    }
    order.push(i);
    if (jumped && bar.fine) break;
    if (jumped && bar.toCoda) {
      const coda = bars.findIndex((each, k) => k > i && each.coda);
      if (coda < 0) break;
      i = coda;
      from = i;
      round = 1;
      // Behind the coda all is as at first.
      continue;
    }
    if (bar.repeatEnd !== undefined && !jumped) {
      if (round < Math.max(bar.repeatEnd, lastRoundOf(bars, i))) {
        round++;
        i = from;
        continue;
      }
      from = i + 1;
      round = 1;
    }
    if (bar.jump && !jumped) {
      jumped = true;
      const sign = bar.jump === 'segno' ? bars.findIndex(({ segno }) => segno) : 0;
      i = from = Math.max(0, sign);
      round = 1;
      continue;
    }
    i++;
  }
  return order;
}

/** The last round for which there is an ending, in the endings that follow each other around a bar. */
function lastRoundOf(bars: readonly BarSigns[], index: number): number {
  let last = 0;
  for (let i = index; i < bars.length && bars[i].endings; i++) last = Math.max(last, ...bars[i].endings!);
  return last;
}
