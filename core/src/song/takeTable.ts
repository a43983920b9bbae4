/**
 * The take table of a part: which takes were recorded of the same stretch of the song, in which phrases, and which of them was
 * chosen for each. It is not stored: it follows from the passages. A take that was not chosen for a phrase stands there as a
 * spare passage, so that whatever moves the song moves the takes of it along.
 */
import type { Seconds, Ticks } from '../signal/index.ts';
import { isSpare } from './arrange.ts';
import { passageEndSeconds } from './placed.ts';
import type { RecordingPart, RecordingPassage, Take } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** A stretch for which one take is chosen. */
export interface Phrase {
  startTicks: Ticks;
  endTicks: Ticks;
  /** What each take has there, by its id. */
  cells: ReadonlyMap<string, RecordingPassage[]>;
  /** The take that sounds there; undefined: none, or several. */
  chosenId: string | undefined;
}

export interface TakeTable {
  takes: Take[];
  phrases: Phrase[];
}

/** Edges nearer than this are one boundary that was trimmed by hand. */
export const SAME_EDGE_SECONDS = 0.25;

/** Parts are never changed in place: each is looked at once for a time. */
const known = new WeakMap<RecordingPart, { time: TimeMap; table: TakeTable | undefined }>();

/** Undefined where no stretch of the part has several takes. In order of the part's takes and of time. */
export function takeTableOf(part: RecordingPart, time: TimeMap): TakeTable | undefined {
  if (!part.passages.some(isSpare)) return undefined;
  const before = known.get(part);
  if (before?.time === time) return before.table;
  const table = lookUp(part, time);
  known.set(part, { time, table });
  return table;
}

function lookUp(part: RecordingPart, time: TimeMap): TakeTable | undefined {
  const spans = part.passages
    .filter(({ muted }) => !muted)
    .map((passage) => ({
      passage,
      from: time.secondsAt(passage.startTicks),
      to: passageEndSeconds(passage, time),
    }));
  const meet = (a: (typeof spans)[number], b: (typeof spans)[number]) =>
    Math.min(a.to, b.to) - Math.max(a.from, b.from) > SAME_EDGE_SECONDS;
  const inTable = spans.filter((one) =>
    spans.some(
      (other) =>
        other.passage.takeId !== one.passage.takeId &&
        (isSpare(one.passage) || isSpare(other.passage)) &&
        meet(one, other),
    ),
  );
  if (inTable.length === 0) return undefined;
  const ids = new Set(inTable.map(({ passage }) => passage.takeId));
  const edges = boundaries(inTable.flatMap(({ from, to }) => [from, to]));
  const phrases: Phrase[] = [];
  for (let i = 1; i < edges.length; i++) {
    const [from, to] = [edges[i - 1], edges[i]];
    const cells = new Map<string, RecordingPassage[]>();
    for (const each of inTable) {
      // What lies here with its greater part, or covers more than half of it.
      const shared = Math.min(each.to, to) - Math.max(each.from, from);
      if (2 * shared <= Math.min(to - from, each.to - each.from)) continue;
      const { takeId } = each.passage;
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
  return phrases.length > 0 ? { takes: part.takes.filter(({ id }) => ids.has(id)), phrases } : undefined;
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
export function takeNames(part: Pick<RecordingPart, 'takes'>, count: number): string[] {
  const numbers = part.takes.map(({ name }) => Number(/^Take (\d+)$/.exec(name ?? '')?.[1] ?? 0));
  const last = Math.max(part.takes.length, ...numbers);
  return Array.from({ length: count }, (_, i) => `Take ${last + i + 1}`);
}
