/** The tempo and metre that were read as the song's: its bars lie where the recording has them, and chords go to its beats. */
import {
  changesFromReading,
  createTimeMap,
  partEdits,
  quartersPerMinute,
  type ChordPull,
  type MetreEntry,
  type SimpleEdit,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import type { FoundChords } from './chordSources.ts';

export interface TakenTempo {
  /** Beats a minute, in the beats of the metre. */
  bpm: number;
  metre: Pick<MetreEntry, 'beats' | 'unit'>;
}

/**
 * Sets tempo and metre, moves all recordings by the same time so that the first bar line that was heard lies on one of the
 * song, and puts the chords there. Notes that were made from a recording stay with it; others keep their bars.
 */
export function takeTempo(
  song: Song,
  time: TimeMap,
  found: FoundChords,
  { bpm, metre }: TakenTempo,
  pull: ChordPull,
  createId: () => string,
): SimpleEdit[] {
  const tempoMap = [{ startTicks: 0, bpm: quartersPerMinute(bpm, metre) }];
  const metreMap = [{ startTicks: 0, ...metre }];
  const next = createTimeMap({ tempoMap, metreMap });
  const startSeconds = time.secondsAt(found.passage.startTicks);
  const heard = startSeconds - found.passage.offsetSeconds + (found.tempo?.downbeats[0] ?? 0);
  const starts = song.parts.flatMap((part) =>
    part.kind === 'recording' ? part.passages.map((passage) => time.secondsAt(passage.startTicks)) : [],
  );
  const later = laterToBarLine(heard, Math.min(...starts), next);
  const moved = (ticks: number) => Math.round(next.ticksAt(Math.max(0, time.secondsAt(ticks) + later)));
  const edits: SimpleEdit[] = [{ type: 'song.set', patch: { tempoMap, metreMap } }];
  const recordings = new Set(song.parts.filter(({ kind }) => kind === 'recording').map(({ id }) => id));
  for (const part of song.parts)
    if (part.kind === 'recording' || recordings.has(part.madeFromPartId ?? ''))
      edits.push(...partEdits(part, moved));
  const passage = { ...found.passage, startTicks: Math.round(next.ticksAt(startSeconds + later)) };
  const { changes } = changesFromReading(found.chords, passage, next, pull, createId);
  edits.push({
    type: 'changes.put',
    remove: (song.changes ?? []).map(({ id }) => id),
    put: changes,
  });
  return edits;
}

/** Seconds by which everything is moved: to the nearest bar line that begins no recording before the song. */
function laterToBarLine(heardSeconds: number, earliestSeconds: number, time: TimeMap): number {
  const { bar } = time.barAt(Math.round(time.ticksAt(Math.max(0, heardSeconds))));
  const ways = [bar, bar + 1].map((each) => time.secondsAt(time.barStartTicks(each)) - heardSeconds);
  const allowed = ways.filter((way) => earliestSeconds + way >= 0);
  return allowed.reduce((best, way) => (Math.abs(way) < Math.abs(best) ? way : best), allowed[0] ?? 0);
}
