/** Moving the onsets of a recording that has no line. Pure: each returns a new {@link Stretch}. */
import type { Seconds } from '../signal/index.ts';
import { pullToGrid, type GridPull, type PullReport } from './gridPull.ts';
import { createPassageTime } from './passageTime.ts';
import type { MATERIALS, Onset, RecordingPassage, Stretch } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** Onsets closer than this are one. */
const SAME_SECONDS = 0.012;
/** A target this close to the onset is none. */
const MIN_SECONDS = 0.0005;

/** Nothing moved yet; hits are cut apart, everything else is stretched. */
export function emptyStretch(material: (typeof MATERIALS)[number]): Stretch {
  return { how: material === 'drums' ? 'slice' : 'stretch', semitones: 0, onsets: [] };
}

/** Adds an onset where none is yet; `seconds` of the recording. Returns the same stretch when one is there. */
export function addOnset(stretch: Stretch, id: string, seconds: Seconds): Stretch {
  if (stretch.onsets.some((onset) => Math.abs(onset.seconds - seconds) < SAME_SECONDS)) return stretch;
  return { ...stretch, onsets: inOrder([...stretch.onsets, { id, seconds }]) };
}

export function removeOnset(stretch: Stretch, id: string): Stretch {
  return { ...stretch, onsets: stretch.onsets.filter((onset) => onset.id !== id) };
}

/** Lets an onset be heard at `toSeconds` of the recording; its neighbours bound it. */
export function moveOnset(stretch: Stretch, id: string, toSeconds: Seconds): Stretch {
  const index = stretch.onsets.findIndex((onset) => onset.id === id);
  if (index < 0) return stretch;
  const lowest = index > 0 ? heardAt(stretch.onsets[index - 1]) + SAME_SECONDS : 0;
  const next = stretch.onsets[index + 1];
  const highest = next ? heardAt(next) - SAME_SECONDS : Infinity;
  const target = Math.max(lowest, Math.min(highest, toSeconds));
  return {
    ...stretch,
    onsets: stretch.onsets.map((onset, i) => (i === index ? withTarget(onset, target) : onset)),
  };
}

/** Every onset as it was played. */
export function resetOnsets(stretch: Stretch): Stretch {
  return { ...stretch, onsets: stretch.onsets.map(({ id, seconds }) => ({ id, seconds })) };
}

/**
 * Pulls what was played to the grid of the song: the onsets named, or all when none is. The report says what that does,
 * before it is done.
 */
export function pullOnsets(
  passage: Pick<RecordingPassage, 'startTicks' | 'offsetSeconds' | 'clock'>,
  stretch: Stretch,
  settings: GridPull,
  time: TimeMap,
  ids: ReadonlySet<string> = new Set(),
): { stretch: Stretch; report: PullReport } {
  const { toSong, toRecorded } = createPassageTime(passage, time);
  const meant = ids.size > 0 ? stretch.onsets.filter((onset) => ids.has(onset.id)) : stretch.onsets;
  const { pulled, report } = pullToGrid(
    meant.map((onset) => toSong(onset.seconds)),
    settings,
    time,
  );
  const targets = new Map(meant.map((onset, i) => [onset.id, Math.max(0, toRecorded(pulled[i].toSeconds))]));
  const onsets = stretch.onsets.map((onset) => {
    const target = targets.get(onset.id);
    return target === undefined ? onset : withTarget(onset, target);
  });
  return { stretch: { ...stretch, onsets }, report };
}

export const heardAt = (onset: Onset): Seconds => onset.targetSeconds ?? onset.seconds;

function withTarget({ id, seconds }: Onset, targetSeconds: Seconds): Onset {
  return Math.abs(targetSeconds - seconds) < MIN_SECONDS ? { id, seconds } : { id, seconds, targetSeconds };
}

function inOrder(onsets: Onset[]): Onset[] {
  return onsets.sort((a, b) => a.seconds - b.seconds);
}
