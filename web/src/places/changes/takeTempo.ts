/** The tempo that was read as the song's: its bars lie where the recording has them, and chords go to its beats. */
import {
  changesFromReading,
  createTimeMap,
  type ChordPull,
  type SimpleEdit,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import type { FoundChords } from './chordSources.ts';

/**
 * Sets the tempo, moves all recordings by the same time so that the first bar line that was heard lies on one of the
 * song, and puts the chords there. Notes stay in their bars.
 */
export function takeTempo(
  song: Song,
  time: TimeMap,
  found: FoundChords,
  bpm: number,
  pull: ChordPull,
  createId: () => string,
): SimpleEdit[] {
  const tempoMap = [{ startTicks: 0, bpm }];
  const next = createTimeMap({ tempoMap, metreMap: song.metreMap });
  const startSeconds = time.secondsAt(found.passage.startTicks);
  const heard = startSeconds - found.passage.offsetSeconds + (found.tempo?.downbeats[0] ?? 0);
  const starts = song.parts.flatMap((part) =>
    part.kind === 'recording' ? part.passages.map((passage) => time.secondsAt(passage.startTicks)) : [],
  );
  const later = laterToBarLine(heard, Math.min(...starts), next);
  const edits: SimpleEdit[] = [{ type: 'song.set', patch: { tempoMap } }];
  for (const part of song.parts) {
    if (part.kind !== 'recording') continue;
    for (const passage of part.passages) {
      const startTicks = Math.round(next.ticksAt(Math.max(0, time.secondsAt(passage.startTicks) + later)));
      edits.push({ type: 'passage.set', partId: part.id, passageId: passage.id, patch: { startTicks } });
    }
  }
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
