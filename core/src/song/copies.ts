/** Copies of passages end to end, and repeats of them up to a place. Pure, as arrange.ts. */
import type { Ticks } from '../signal/index.ts';
import { placeOf, recordedUntil, type Found, type PassagePlace } from './arrange.ts';
import { EditError, type Edit, type SimpleEdit } from './editSchema.ts';
import { passageEndTicks } from './placed.ts';
import { MAX_TICKS, type Passage } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** What is copied, and how far apart copies lie. */
export interface Copies {
  edit: Edit;
  /** Of the copies. */
  places: PassagePlace[];
}

/** A stretch of music is as long as its beats say, where it ends this near to one. */
const NEAR_BEAT_SECONDS = 0.06;

/** Length of passages taken together: to the beat where they end near one, counted from where they begin. */
export function lengthTogether(found: readonly Found[], time: TimeMap): Ticks {
  const start = Math.min(...found.map(({ passage }) => passage.startTicks));
  const end = Math.max(...found.map(({ passage }) => passageEndTicks(passage, time)));
  const beat = time.beatTicksAt(start);
  const beats = Math.max(1, Math.round((end - start) / beat));
  const near = Math.abs(time.secondsAt(start + beats * beat) - time.secondsAt(end)) < NEAR_BEAT_SECONDS;
  return Math.max(1, near ? beats * beat : end - start);
}

/** Copies of passages, end to end behind them. */
export function planCopies(
  found: readonly Found[],
  times: number,
  time: TimeMap,
  createId: () => string,
): Copies | undefined {
  if (found.length === 0 || times < 1) return undefined;
  const length = lengthTogether(found, time);
  const edits: SimpleEdit[] = [];
  const places: PassagePlace[] = [];
  for (let k = 1; k <= times; k++)
    for (const each of found) {
      const toId = createId();
      const startTicks = each.passage.startTicks + k * length;
      if (startTicks > MAX_TICKS)
        throw new EditError(
          'The song would become too long for its bars to be counted, so nothing was copied.',
        );
      edits.push({ type: 'passage.copy', ...placeOf(each), toId, startTicks });
      places.push({ partId: each.part.id, passageId: toId });
    }
  return { edit: { type: 'batch', edits }, places };
}

/** More copies than this are hardly meant. */
export const MOST_COPIES = 500;

/**
 * Repeats passages until a tick; the last copies end there. Throws {@link EditError} where that would be too many copies.
 */
export function planRepeat(
  found: readonly Found[],
  untilTicks: Ticks,
  time: TimeMap,
  createId: () => string,
): Copies | undefined {
  if (found.length === 0) return undefined;
  const length = lengthTogether(found, time);
  const start = Math.min(...found.map(({ passage }) => passage.startTicks));
  const times = Math.ceil((untilTicks - start - length) / length - 1e-6);
  if (times * found.length > MOST_COPIES)
    throw new EditError(
      `That would make ${(times * found.length).toLocaleString('en')} copies; ${MOST_COPIES} are the most at once. Choose a nearer bar, or join passages first.`,
    );
  const copies = planCopies(found, times, time, createId);
  if (!copies || copies.edit.type !== 'batch') return undefined;
  const edits = [...copies.edit.edits];
  for (const edit of copies.edit.edits) {
    if (edit.type !== 'passage.copy') continue;
    const from = found.find(({ passage }) => passage.id === edit.passageId)!;
    const place = { partId: edit.partId, passageId: edit.toId };
    if (edit.startTicks >= untilTicks) {
      edits.splice(edits.indexOf(edit), 1);
      continue;
    }
    const copied = { ...from.passage, startTicks: edit.startTicks } as Passage;
    if (passageEndTicks(copied, time) <= untilTicks) continue;
    edits.push({
      type: 'passage.set',
      ...place,
      patch:
        copied.type === 'notes'
          ? { lengthTicks: untilTicks - copied.startTicks, offsetTicks: copied.offsetTicks ?? 0 }
          : { durationSeconds: recordedUntil(copied, untilTicks, time) },
    });
  }
  const made = new Set(edits.flatMap((edit) => (edit.type === 'passage.copy' ? [edit.toId] : [])));
  return {
    edit: { type: 'batch', edits },
    places: copies.places.filter(({ passageId }) => made.has(passageId)),
  };
}
