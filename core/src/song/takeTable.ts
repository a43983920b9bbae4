/**
 * The take table of a part: which takes were recorded of the same stretch of the song, in which phrases, and which of them was
 * chosen for each. It is not stored: it follows from the passages. A take that was not chosen for a phrase stands there as a
 * spare passage, so that whatever moves the song moves the takes of it along.
 */
import type { Seconds, Ticks } from '../signal/index.ts';
import { isSpare } from './arrange.ts';
import { passageEndSeconds } from './placed.ts';
import type { NotePart, Part, Passage, RecordingPart, Take } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** A stretch for which one take is chosen. */
export interface Phrase {
  startTicks: Ticks;
  endTicks: Ticks;
  /** What each take has there, by its id. */
  cells: ReadonlyMap<string, Passage[]>;
  /** The take that sounds there; undefined: none, or several. */
  chosenId: string | undefined;
}

/** A take as a row of the table. */
export interface TableTake {
  id: string;
  name: string;
  /** What was recorded; absent: it was played in and is notes. */
  recorded?: Take;
}

export interface TakeTable {
  takes: TableTake[];
  phrases: Phrase[];
}

/** The take that a passage is of; undefined: notes that are of none. */
export const takeIdOf = (passage: Passage): string | undefined =>
  passage.type === 'recording' ? passage.takeId : passage.take;

/** Edges nearer than this are one boundary that was trimmed by hand. */
export const SAME_EDGE_SECONDS = 0.25;

/** Parts are never changed in place: each is looked at once for a time. */
const known = new WeakMap<Part, { time: TimeMap; table: TakeTable | undefined }>();

/** Undefined where no stretch of the part has several takes. In order of the part's takes and of time. */
export function takeTableOf(part: Part, time: TimeMap): TakeTable | undefined {
  if (!(part.passages as Passage[]).some(isSpare)) return undefined;
  const before = known.get(part);
  if (before?.time === time) return before.table;
  const table = lookUp(part, time);
  known.set(part, { time, table });
  return table;
}

function lookUp(part: Part, time: TimeMap): TakeTable | undefined {
  const spans = (part.passages as Passage[]).flatMap((passage) => {
    const takeId = takeIdOf(passage);
    if (passage.muted || takeId === undefined) return [];
    const from = time.secondsAt(passage.startTicks);
    return [{ passage, takeId, from, to: passageEndSeconds(passage, time) }];
  });
  const meet = (a: (typeof spans)[number], b: (typeof spans)[number]) =>
    Math.min(a.to, b.to) - Math.max(a.from, b.from) > SAME_EDGE_SECONDS;
  const inTable = spans.filter((one) =>
    spans.some(
      (other) =>
        other.takeId !== one.takeId && (isSpare(one.passage) || isSpare(other.passage)) && meet(one, other),
    ),
  );
  if (inTable.length === 0) return undefined;
  const ids = new Set(inTable.map(({ takeId }) => takeId));
  const edges = boundaries(inTable.flatMap(({ from, to }) => [from, to]));
  const phrases: Phrase[] = [];
  for (let i = 1; i < edges.length; i++) {
    const [from, to] = [edges[i - 1], edges[i]];
    const cells = new Map<string, Passage[]>();
    for (const each of inTable) {
      // What lies here with its greater part, or covers more than half of it.
      const shared = Math.min(each.to, to) - Math.max(each.from, from);
      if (2 * shared <= Math.min(to - from, each.to - each.from)) continue;
      const { takeId } = each;
      cells.set(takeId, [...(cells.get(takeId) ?? []), each.passage]);
    }
    if (cells.size < 2) continue;
    const heard = [...cells].filter(([, passages]) => passages.some((passage) => !passage.spare));
    phrases.push({
      startTicks: Math.round(time.ticksAt(from)),
      endTicks: Math.round(time.ticksAt(to)),
      cells,
      chosenId: heard.length === 1 ? heard[0][0] : undefined,
    });
  }
  return phrases.length > 0 ? { takes: takesOf(part).filter(({ id }) => ids.has(id)), phrases } : undefined;
}

/** All takes of a part; those of notes in the order in which they came into it. */
function takesOf(part: Part): TableTake[] {
  if (part.kind !== 'recording')
    return [...new Set(part.passages.flatMap(({ take }) => take ?? []))].map((name) => ({ id: name, name }));
  return part.takes.map((recorded) => ({ id: recorded.id, name: nameOfTake(part, recorded), recorded }));
}

/** As it was named, or by its place among the takes of the part. */
function nameOfTake({ takes }: Pick<RecordingPart, 'takes'>, take: Take): string {
  return take.name ?? takeNames({ takes: takes.slice(0, takes.indexOf(take)) }, 1)[0];
}

/** One place for edges that lie close together: that of most of them, of equally many the first. */
function boundaries(seconds: readonly Seconds[]): Seconds[] {
  const sorted = [...seconds].sort((a, b) => a - b);
  const groups: Seconds[][] = [];
  for (const each of sorted) {
    const group = groups.at(-1);
    if (group && each - group[0] < SAME_EDGE_SECONDS) group.push(each);
    else groups.push([each]);
  }
  return groups.map((group) => {
    const count = (at: Seconds) => group.filter((each) => Math.abs(each - at) < 0.001).length;
    return group.reduce((best, each) => (count(each) > count(best) ? each : best));
  });
}

/** The names of takes that are added to a part: "Take 3", "Take 4". */
export function takeNames({ takes }: Pick<RecordingPart, 'takes'>, count: number): string[] {
  return namesAfter(
    takes.map(({ name }) => name),
    takes.length,
    count,
  );
}

/** The same of takes of notes. */
export function noteTakeNames({ passages }: Pick<NotePart, 'passages'>, count: number): string[] {
  const names = new Set(passages.flatMap(({ take }) => take ?? []));
  return namesAfter([...names], names.size, count);
}

function namesAfter(names: readonly (string | undefined)[], least: number, count: number): string[] {
  const numbers = names.map((name) => Number(/^Take (\d+)$/.exec(name ?? '')?.[1] ?? 0));
  const last = Math.max(least, ...numbers);
  return Array.from({ length: count }, (_, i) => `Take ${last + i + 1}`);
}
