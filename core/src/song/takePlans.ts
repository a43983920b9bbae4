/** What is done in a take table, as edits: takes added and removed, phrases cut, moved and chosen. Pure, as arrange.ts. */
import type { Seconds, Ticks } from '../signal/index.ts';
import { isSpare, planTrim, splitEdits } from './arrange.ts';
import { EditError, type Edit, type SimpleEdit } from './editSchema.ts';
import { noteBoundaryEdits } from './noteTakes.ts';
import { passageEndSeconds, passageEndTicks } from './placed.ts';
import type { Part, Passage, RecordingPassage, Song, Take } from './schema.ts';
import { noteTakeNames, SAME_EDGE_SECONDS, takeIdOf, takeTableOf, type Phrase } from './takeTable.ts';
import { cutTake, edgesWithin, setAside, walk } from './takeWalk.ts';
import type { TimeMap } from './timeMap.ts';

/** A recording of the part that was just made, and which stretch of the song it is a take of. */
export interface NewTake {
  take: Take;
  startTicks: Ticks;
  /** Which seconds of it lie there. */
  offsetSeconds: Seconds;
  durationSeconds: Seconds;
}

/**
 * Puts takes of the same stretch into a part: one is heard, all others and what the part had there stand beside it. New takes
 * are cut where the table has phrases already.
 * @param heard which of them is heard
 */
export function planAddTakes(
  song: Song,
  partId: string,
  takes: readonly NewTake[],
  createId: () => string,
  heard = takes.length - 1,
): Edit {
  const { add, edits, partNow, time } = walk(song, partId);
  for (const [i, { take, startTicks, offsetSeconds, durationSeconds }] of takes.entries()) {
    const passage: RecordingPassage = {
      type: 'recording',
      id: createId(),
      takeId: take.id,
      startTicks,
      offsetSeconds,
      durationSeconds,
    };
    const end = passageEndTicks(passage, time);
    const table = takeTableOf(partNow(), time);
    const isHeard = i === heard;
    // What was heard there until now goes beside it.
    if (isHeard) setAside(partNow, startTicks, end, add, time, createId);
    add({ type: 'take.add', partId, take });
    add({ type: 'passage.add', partId, passage: isHeard ? passage : { ...passage, spare: true } });
    for (const at of edgesWithin(table?.phrases ?? [], startTicks, end))
      cutTake(partNow, take.id, at, add, time, createId);
  }
  return { type: 'batch', edits };
}

/** What is heard of a part from one place to another stands beside what will be recorded there; undefined where nothing is. */
export function planSetAside(
  song: Song,
  partId: string,
  startTicks: Ticks,
  endTicks: Ticks,
  createId: () => string,
): Edit | undefined {
  const { add, edits, partNow, time } = walk(song, partId);
  setAside(partNow, startTicks, endTicks, add, time, createId);
  return edits.length > 0 ? { type: 'batch', edits } : undefined;
}

/** Cuts all takes of the table at a place, so that on each side of it another can be chosen; undefined where nothing is cut. */
export function planPhraseCut(
  song: Song,
  partId: string,
  places: readonly Ticks[],
  createId: () => string,
): Edit | undefined {
  const { add, edits, partNow, time } = walk(song, partId);
  const table = takeTableOf(partNow(), time);
  if (!table) return undefined;
  const within = (ticks: Ticks) =>
    table.phrases.some(({ startTicks, endTicks }) => ticks > startTicks && ticks < endTicks);
  for (const at of places.filter(within))
    for (const { id } of table.takes) cutTake(partNow, id, at, add, time, createId);
  return edits.length > 0 ? { type: 'batch', edits } : undefined;
}

export interface Choice {
  phrase: Pick<Phrase, 'startTicks' | 'endTicks'>;
  /** Null: none. */
  takeId: string | null;
}

/** Takes each phrase from its take. What reaches beyond a phrase is cut there. Undefined where all is so already. */
export function planChoose(
  song: Song,
  partId: string,
  choices: readonly Choice[],
  createId: () => string,
): Edit | undefined {
  const { add, edits, partNow, time } = walk(song, partId);
  for (const choice of choices) choose(choice, partNow, add, time, createId);
  return edits.length > 0 ? { type: 'batch', edits } : undefined;
}

function choose(
  { phrase: { startTicks, endTicks }, takeId }: Choice,
  partNow: () => Part,
  add: (...edits: SimpleEdit[]) => void,
  time: TimeMap,
  createId: () => string,
): void {
  const partId = partNow().id;
  const table = takeTableOf(partNow(), time);
  if (!table) return;
  const [from, to] = [time.secondsAt(startTicks), time.secondsAt(endTicks)];
  for (const { id } of table.takes)
    for (const edge of [startTicks, endTicks])
      for (const passage of partNow().passages) {
        if (takeIdOf(passage) !== id) continue;
        const at = time.secondsAt(edge);
        const [before, after] = [
          at - time.secondsAt(passage.startTicks),
          passageEndSeconds(passage, time) - at,
        ];
        // An edge that was trimmed by hand to near the boundary stays as it is.
        if (Math.min(before, after) > SAME_EDGE_SECONDS)
          add(...splitEdits({ part: partNow(), passage }, edge, edge, time, createId));
      }
  const ids = new Set(table.takes.map(({ id }) => id));
  for (const passage of partNow().passages) {
    const id = takeIdOf(passage);
    if (id === undefined || !ids.has(id) || passage.muted) continue;
    const middle = (time.secondsAt(passage.startTicks) + passageEndSeconds(passage, time)) / 2;
    if (middle <= from || middle >= to) continue;
    const spare = id !== takeId;
    if (spare !== isSpare(passage))
      add({ type: 'passage.set', partId, passageId: passage.id, patch: { spare: spare ? true : null } });
  }
}

/**
 * Moves a boundary between two phrases to another tick, for all takes that go on across it. Throws {@link EditError} where it
 * would leave nothing of a phrase; undefined where nothing moves.
 */
export function planBoundary(song: Song, partId: string, fromTicks: Ticks, toTicks: Ticks): Edit | undefined {
  const { add, edits, partNow, time } = walk(song, partId);
  const table = takeTableOf(partNow(), time);
  if (!table || fromTicks === toTicks) return undefined;
  const edges = [...new Set(table.phrases.flatMap(({ startTicks, endTicks }) => [startTicks, endTicks]))];
  const before = Math.max(...edges.filter((ticks) => ticks < fromTicks), 0);
  const after = Math.min(...edges.filter((ticks) => ticks > fromTicks), Infinity);
  if (toTicks <= before || toTicks >= after)
    throw new EditError('A boundary between two phrases cannot go over the next one.');
  const at = time.secondsAt(fromTicks);
  const near = (seconds: Seconds) => Math.abs(seconds - at) < SAME_EDGE_SECONDS;
  for (const { id } of table.takes) {
    const own = () => (partNow().passages as Passage[]).filter((passage) => takeIdOf(passage) === id);
    const first = own().find((passage) => near(passageEndSeconds(passage, time)));
    const second = own().find((passage) => near(time.secondsAt(passage.startTicks)));
    if (!first || !second) continue;
    if (first.type === 'notes' && second.type === 'notes') {
      add(...noteBoundaryEdits(partId, first, second, toTicks));
      continue;
    }
    // The one that gets shorter first: two windows on a take must not overlap.
    const order =
      toTicks < fromTicks
        ? ([
            [first, 'end'],
            [second, 'start'],
          ] as const)
        : ([
            [second, 'start'],
            [first, 'end'],
          ] as const);
    for (const [passage, edge] of order) {
      const part = partNow();
      const now = (part.passages as Passage[]).find((each) => each.id === passage.id)!;
      const edit = planTrim({ part, passage: now }, edge, toTicks, time, Infinity);
      if (edit) add(...(edit.type === 'batch' ? edit.edits : [edit]));
    }
  }
  return edits.length > 0 ? { type: 'batch', edits } : undefined;
}

/** All takes of the table at once, each as a part of its own: to be heard, not to be made. */
export function planHearTogether(song: Song, partId: string, createId: () => string): Edit | undefined {
  const { add, edits, partNow, time } = walk(song, partId);
  const part = partNow();
  const table = takeTableOf(part, time);
  if (!table) return undefined;
  for (const phrase of table.phrases) choose({ phrase, takeId: null }, partNow, add, time, createId);
  for (const { id, recorded } of table.takes) {
    const own = new Set(table.phrases.flatMap(({ cells }) => cells.get(id) ?? []));
    const passages = (part.passages as Passage[])
      .filter((passage) => own.has(passage))
      .map(({ spare: _, ...passage }) => passage);
    const alone = { ...part, id: createId(), passages, ...(recorded && { takes: [recorded] }) } as Part;
    edits.push({ type: 'part.add', part: alone, index: song.parts.length });
  }
  return { type: 'batch', edits };
}

/** Where a take sounds, for whoever wants to remove it; empty where nobody would hear that it is gone. */
export function placesOfTake(part: Part, takeId: string): Ticks[] {
  return (part.passages as Passage[])
    .filter((passage) => takeIdOf(passage) === takeId && !passage.spare && !passage.muted)
    .map(({ startTicks }) => startTicks)
    .sort((a, b) => a - b);
}

/** Removes a take with everything that shows it. */
export function planTakeRemoval(part: Part, takeId: string): Edit {
  const partId = part.id;
  const edits = (part.passages as Passage[])
    .filter((passage) => takeIdOf(passage) === takeId)
    .map(({ id }): SimpleEdit => ({ type: 'passage.remove', partId, passageId: id }));
  if (part.kind === 'recording') edits.push({ type: 'take.remove', partId, takeId });
  return { type: 'batch', edits };
}

/**
 * Gives a take another name; an empty one is that of its place. Undefined where nothing changes. Throws {@link EditError} where
 * another take of notes has it, which would make them one.
 */
export function planTakeName(part: Part, takeId: string, name: string): Edit | undefined {
  const typed = name.trim();
  if (part.kind === 'recording') {
    const before = part.takes.find(({ id }) => id === takeId)?.name;
    if ((before ?? '') === typed) return undefined;
    return { type: 'take.name', partId: part.id, takeId, name: typed || null };
  }
  const wanted = typed || noteTakeNames(part, 1)[0];
  if (wanted === takeId) return undefined;
  if (part.passages.some(({ take }) => take === wanted))
    throw new EditError(`There is a take named ${wanted} already. Choose another name.`);
  return {
    type: 'batch',
    edits: part.passages
      .filter(({ take }) => take === takeId)
      .map(({ id }) => ({
        type: 'passage.set',
        partId: part.id,
        passageId: id,
        patch: { take: wanted },
      })),
  };
}
