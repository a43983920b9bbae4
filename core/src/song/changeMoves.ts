/** Chords moved in time, and bars put in or taken out of the chords. */
import type { Ticks } from '../signal/index.ts';
import { changeAt, type ChordEntriesChange } from './changes.ts';
import type { ChordEntry, Section } from './schema.ts';

/**
 * Chords that start earlier or later by the same amount, none before the start of the song. One that lands where
 * another starts replaces it; one that is carried past others leaves them where they are.
 */
export function moveChords(
  changes: readonly ChordEntry[],
  ids: ReadonlySet<string>,
  byTicks: number,
): ChordEntriesChange {
  const moving = changes.filter(({ id }) => ids.has(id));
  const first = moving.at(0)?.startTicks ?? 0;
  const by = Math.max(byTicks, -first);
  if (moving.length === 0 || by === 0) return { remove: [], put: [] };
  const put = moving.map((change) => ({ ...change, startTicks: change.startTicks + by }));
  const taken = new Set(put.map(({ startTicks }) => startTicks));
  const remove = changes.filter(({ id, startTicks }) => !ids.has(id) && taken.has(startTicks));
  return { remove: remove.map(({ id }) => id), put };
}

/** What changes when time is put in (`lengthTicks` above 0) or taken out at a place; parts are not moved (songTime.ts does). */
export interface TimeShift {
  changes: ChordEntriesChange;
  sections: Section[];
}

/** Room at `atTicks`: what starts there or later moves; the chord before holds on through it. */
export function insertTime(
  changes: readonly ChordEntry[],
  sections: readonly Section[],
  atTicks: number,
  lengthTicks: number,
): TimeShift {
  const later = <T extends { startTicks: number }>(each: T): T =>
    each.startTicks >= atTicks ? { ...each, startTicks: each.startTicks + lengthTicks } : each;
  return {
    changes: { remove: [], put: changes.filter(({ startTicks }) => startTicks >= atTicks).map(later) },
    sections: movedEnds(sections.map(later), sections, (ticks) =>
      ticks > atTicks ? ticks + lengthTicks : ticks,
    ),
  };
}

/** Takes time out: what comes after moves up. The chord and the section in force at its end stay in force. */
export function removeTime(
  changes: readonly ChordEntry[],
  sections: readonly Section[],
  atTicks: number,
  lengthTicks: number,
  createId: () => string,
): TimeShift {
  const end = atTicks + lengthTicks;
  const within = ({ startTicks }: { startTicks: number }) => startTicks >= atTicks && startTicks < end;
  const earlier = <T extends { startTicks: number }>(each: T): T => ({
    ...each,
    startTicks: each.startTicks - lengthTicks,
  });
  const put = changes.filter(({ startTicks }) => startTicks >= end).map(earlier);
  const held = changeAt(changes, end);
  if (held && within(held)) put.unshift({ ...held, id: createId(), startTicks: atTicks });
  return {
    changes: { remove: changes.filter(within).map(({ id }) => id), put },
    sections: movedEnds(withoutTime(sections, atTicks, end), sections, (ticks) =>
      ticks >= end ? ticks - lengthTicks : Math.min(ticks, atTicks),
    ),
  };
}

/** Sections that were moved by their starts, with their ends; what has no length left goes. */
export function movedEnds(
  moved: readonly Section[],
  before: readonly Section[],
  endOf: (ticks: Ticks) => Ticks,
): Section[] {
  const ends = new Map(before.map(({ id, endTicks }) => [id, endTicks]));
  return moved.flatMap((section) => {
    const end = ends.get(section.id);
    if (end === undefined) return [section];
    const endTicks = endOf(end);
    return endTicks > section.startTicks ? [{ ...section, endTicks }] : [];
  });
}

/** Takes a stretch of time out of entries that each hold until the next; the one in force at its end holds from there on. */
export function withoutTime<T extends { startTicks: Ticks }>(
  entries: readonly T[],
  fromTicks: Ticks,
  toTicks: Ticks,
): T[] {
  const held = entries.findLast(({ startTicks }) => startTicks >= fromTicks && startTicks <= toTicks);
  return [
    ...entries.filter(({ startTicks }) => startTicks < fromTicks),
    ...(held ? [{ ...held, startTicks: fromTicks }] : []),
    ...entries
      .filter(({ startTicks }) => startTicks > toTicks)
      .map((entry) => ({ ...entry, startTicks: entry.startTicks - (toTicks - fromTicks) })),
  ];
}
