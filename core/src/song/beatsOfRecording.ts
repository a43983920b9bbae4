/** The beats and bars of the song as they fall in a recording that lies in it. */
import type { Seconds } from '../signal/index.ts';
import type { ChordWindow } from './changes.ts';
import { createPassageTime } from './passageTime.ts';
import type { TimeMap } from './timeMap.ts';

export interface BeatsOfSong {
  /** In order, in seconds of the recording. */
  seconds: Seconds[];
  /** Indices of those that begin a bar. */
  downbeats: number[];
  /** Of the first bar. */
  beatsPerBar: number;
}

/** At a cut the beats of both sides may fall closer together than any beat; of two like these the first counts. */
const SHORTEST_BEAT_SECONDS = 0.12;

/**
 * Each window says where the recording lies up to the next one, the first also what is before it and the last what is behind; of
 * windows on the same stretch the one that begins first counts.
 * @param windows on one recording, in any order, at least one
 */
export function beatsOfRecording(
  windows: readonly ChordWindow[],
  time: TimeMap,
  durationSeconds: Seconds,
): BeatsOfSong {
  const seconds: Seconds[] = [];
  const downbeats: number[] = [];
  let beatsPerBar = 0;
  const pieces = apart(windows);
  pieces.forEach((window, i) => {
    const from = i === 0 ? 0 : window.offsetSeconds;
    const to = i + 1 < pieces.length ? pieces[i + 1].offsetSeconds : durationSeconds;
    const { toTicks, toSeconds } = createPassageTime(window, time);
    const endTicks = toTicks(to);
    for (let { bar } = time.barAt(Math.floor(toTicks(from))); time.barStartTicks(bar) < endTicks; bar++) {
      const start = time.barStartTicks(bar);
      const beatTicks = time.beatTicksAt(start);
      const beats = Math.round((time.barStartTicks(bar + 1) - start) / beatTicks);
      beatsPerBar ||= beats;
      for (let beat = 0; beat < beats; beat++) {
        const at = toSeconds(start + beat * beatTicks);
        const before = seconds.at(-1) ?? -Infinity;
        if (at < from || at >= to || at < before + SHORTEST_BEAT_SECONDS) continue;
        if (beat === 0) downbeats.push(seconds.length);
        seconds.push(at);
      }
    }
  });
  return { seconds, downbeats, beatsPerBar };
}

function apart(windows: readonly ChordWindow[]): ChordWindow[] {
  const taken: ChordWindow[] = [];
  for (const window of [...windows].sort((a, b) => a.offsetSeconds - b.offsetSeconds)) {
    const last = taken.at(-1);
    if (!last || window.offsetSeconds >= last.offsetSeconds + last.durationSeconds - 1e-6) taken.push(window);
  }
  return taken;
}
