/** What all plans of a take table are made of: edits one after another, passages set aside, takes cut. */
import type { Ticks } from '../signal/index.ts';
import { splitEdits } from './arrange.ts';
import { applyEdit } from './edit.ts';
import { EditError, type SimpleEdit } from './editSchema.ts';
import { passageEndTicks } from './placed.ts';
import type { Part, Song } from './schema.ts';
import { noteTakeNames, takeIdOf, type Phrase } from './takeTable.ts';
import { createTimeMap, type TimeMap } from './timeMap.ts';

/** Edits one after another, each planned on what the ones before left. */
export function walk(song: Song, partId: string) {
  const time = createTimeMap(song);
  const edits: SimpleEdit[] = [];
  let now = song;
  return {
    time,
    edits,
    add(...more: SimpleEdit[]): void {
      for (const edit of more) {
        edits.push(edit);
        now = applyEdit(now, edit).song;
      }
    },
    partNow(): Part {
      const part = now.parts.find(({ id }) => id === partId);
      if (!part) throw new EditError('This part is not in the song any more.');
      return part;
    },
  };
}

/** What is heard of a part from one place to another stands beside what will be put there. */
export function setAside(
  partNow: () => Part,
  startTicks: Ticks,
  endTicks: Ticks,
  add: (...edits: SimpleEdit[]) => void,
  time: TimeMap,
  createId: () => string,
): void {
  for (const edge of [startTicks, endTicks])
    for (const passage of partNow().passages)
      if (!passage.spare) add(...splitEdits({ part: partNow(), passage }, edge, edge, time, createId));
  const part = partNow();
  // Notes that were no take until now become one together.
  const name = part.kind === 'recording' ? undefined : noteTakeNames(part, 1)[0];
  for (const passage of part.passages) {
    if (passage.spare || passage.startTicks >= endTicks || passageEndTicks(passage, time) <= startTicks)
      continue;
    const patch = {
      spare: true as const,
      ...(name !== undefined && takeIdOf(passage) === undefined && { take: name }),
    };
    add({ type: 'passage.set', partId: part.id, passageId: passage.id, patch });
  }
}

export function cutTake(
  partNow: () => Part,
  takeId: string,
  at: Ticks,
  add: (...edits: SimpleEdit[]) => void,
  time: TimeMap,
  createId: () => string,
): void {
  for (const passage of partNow().passages)
    if (takeIdOf(passage) === takeId && passage.startTicks < at && passageEndTicks(passage, time) > at)
      add(...splitEdits({ part: partNow(), passage }, at, at, time, createId));
}

/** Where phrases begin and end inside a stretch, each place once. */
export function edgesWithin(phrases: readonly Phrase[], startTicks: Ticks, endTicks: Ticks): Set<Ticks> {
  const edges = phrases.flatMap((phrase) => [phrase.startTicks, phrase.endTicks]);
  return new Set(edges.filter((ticks) => ticks > startTicks && ticks < endTicks));
}
