/** The tempo and metre that were read as the song's: its bars lie where the recording has them, and chords go to its beats. */
import {
  changesFromReading,
  createTimeMap,
  partEdits,
  quartersPerMinute,
  secondsToBarLine,
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
 * Sets tempo and metre, and moves all recordings by the same time so that the first bar line that was heard lies on one of
 * the song. Notes that were made from a recording stay with it; others keep their bars.
 */
export function takeFrame(
  song: Song,
  time: TimeMap,
  found: Pick<FoundChords, 'passage' | 'tempo'>,
  { bpm, metre }: TakenTempo,
): { edits: SimpleEdit[]; time: TimeMap; laterSeconds: number } {
  const tempoMap = [{ startTicks: 0, bpm: quartersPerMinute(bpm, metre) }];
  const metreMap = [{ startTicks: 0, ...metre }];
  const next = createTimeMap({ tempoMap, metreMap });
  const startSeconds = time.secondsAt(found.passage.startTicks);
  const heard = startSeconds - found.passage.offsetSeconds + (found.tempo?.downbeats[0] ?? 0);
  const starts = song.parts.flatMap((part) =>
    part.kind === 'recording' ? part.passages.map((passage) => time.secondsAt(passage.startTicks)) : [],
  );
  const later = secondsToBarLine(heard, Math.min(...starts), next);
  const moved = (ticks: number) => Math.round(next.ticksAt(Math.max(0, time.secondsAt(ticks) + later)));
  const edits: SimpleEdit[] = [{ type: 'song.set', patch: { tempoMap, metreMap } }];
  const recordings = new Set(song.parts.filter(({ kind }) => kind === 'recording').map(({ id }) => id));
  for (const part of song.parts)
    if (part.kind === 'recording' || recordings.has(part.madeFromPartId ?? ''))
      edits.push(...partEdits(part, moved));
  return { edits, time: next, laterSeconds: later };
}

/** The same, with the chords that were read put there. */
export function takeTempo(
  song: Song,
  time: TimeMap,
  found: FoundChords,
  taken: TakenTempo,
  pull: ChordPull,
  createId: () => string,
): SimpleEdit[] {
  const { edits, time: next, laterSeconds } = takeFrame(song, time, found, taken);
  const startTicks = Math.round(next.ticksAt(time.secondsAt(found.passage.startTicks) + laterSeconds));
  const { changes } = changesFromReading(
    found.chords,
    { ...found.passage, startTicks },
    next,
    pull,
    createId,
  );
  return [...edits, { type: 'changes.put', remove: (song.changes ?? []).map(({ id }) => id), put: changes }];
}
