/** How a recording was played that did not go evenly: which of its seconds are how far into the music. */
import type { Seconds, Ticks } from '../signal/index.ts';
import type { Course } from './passageTime.ts';
import type { Played } from './schema.ts';

/** Before the first point and behind the last it goes on as between those that are nearest. */
export function coursePlayed(played: Played): Course {
  const along = (from: 'seconds' | 'ticks', to: 'seconds' | 'ticks', value: number) => {
    const [a, b] = around(played, from, value);
    return a[to] + ((value - a[from]) / (b[from] - a[from])) * (b[to] - a[to]);
  };
  return {
    ticksAt: (seconds: Seconds): Ticks => along('seconds', 'ticks', seconds),
    secondsAt: (ticks: Ticks): Seconds => along('ticks', 'seconds', ticks),
  };
}

/** The two points that a value lies between, or the nearest two. */
function around(played: Played, by: keyof Played[number], value: number): [Played[number], Played[number]] {
  let low = 0;
  let high = played.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (played[middle][by] <= value) low = middle;
    else high = middle;
  }
  return [played[low], played[high]];
}
