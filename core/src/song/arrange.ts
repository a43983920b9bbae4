/**
 * Arranging passages: splitting, joining, trimming, moving and removing them, each as one edit. Pure;
 * a tool asks for the edit, or learns in a sentence why there is none.
 */
import type { Seconds, Ticks } from '../signal/index.ts';
import { EditError, type Edit, type SimpleEdit } from './editSchema.ts';
import { createPassageTime, isSameClock, isWarped } from './passageTime.ts';
import { notesOriginTicks, passageEndSeconds, passageEndTicks, placedNotes } from './placed.ts';
import {
  MAX_TICKS,
  type Note,
  type NotePart,
  type NotePassage,
  type Part,
  type Passage,
  type RecordingPart,
  type RecordingPassage,
  type Song,
} from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** A passage of a part, by name. */
export interface PassagePlace {
  partId: string;
  passageId: string;
}

export interface Found {
  part: Part;
  passage: Passage;
}

/** Shorter than this no passage is made. */
export const SHORTEST_PASSAGE_SECONDS = 0.02;
export const SHORTEST_PASSAGE_TICKS = 30;
/** Windows are cut at whole multiples of this: then the lengths of two halves add up to the whole, to the last bit. */
const CUT_SECONDS = 2 ** -20;
/** Recordings that meet nearer than this follow each other: half a tick at 120 bpm, rounded up. */
const MEETING_SECONDS = 0.0005;

export const snapped = (seconds: Seconds) => Math.round(seconds / CUT_SECONDS) * CUT_SECONDS;

/** The passages with these names that are still there, in order of their start. */
export function findPassages(song: Song, places: readonly PassagePlace[]): Found[] {
  const found: Found[] = [];
  for (const { partId, passageId } of places) {
    const part = song.parts.find(({ id }) => id === partId);
    const passage = (part?.passages as Passage[] | undefined)?.find(({ id }) => id === passageId);
    if (part && passage) found.push({ part, passage });
  }
  return found.sort((a, b) => a.passage.startTicks - b.passage.startTicks);
}

export const placeOf = ({ part, passage }: Found) => ({ partId: part.id, passageId: passage.id });
const asEdit = (edits: SimpleEdit[]): Edit | undefined =>
  edits.length === 0 ? undefined : edits.length === 1 ? edits[0] : { type: 'batch', edits };

/** Cuts passages in two where they lie across a tick; undefined where none of them does. */
export function planSplit(
  found: readonly Found[],
  atTicks: Ticks,
  time: TimeMap,
  createId: () => string,
): Edit | undefined {
  return asEdit(found.flatMap((each) => splitEdits(each, atTicks, atTicks, time, createId)));
}

/**
 * The edits that cut a passage at a tick and put its second half at another.
 * @param toTicks where the second half begins then
 */
export function splitEdits(
  { part, passage }: Found,
  atTicks: Ticks,
  toTicks: Ticks,
  time: TimeMap,
  createId: () => string,
): SimpleEdit[] {
  const place = { partId: part.id, passageId: passage.id };
  if (passage.type === 'recording') {
    const first = recordedUntil(passage, atTicks, time);
    const second = passage.durationSeconds - first;
    if (first < SHORTEST_PASSAGE_SECONDS || second < SHORTEST_PASSAGE_SECONDS) return [];
    const { fadeInSeconds: _, ...rest } = passage;
    return [
      {
        type: 'passage.set',
        ...place,
        patch: {
          durationSeconds: first,
          ...(passage.fadeOutSeconds !== undefined && { fadeOutSeconds: null }),
        },
      },
      {
        type: 'passage.add',
        partId: part.id,
        passage: {
          ...rest,
          id: createId(),
          startTicks: toTicks,
          offsetSeconds: passage.offsetSeconds + first,
          durationSeconds: second,
        },
        index: indexIn(part, passage) + 1,
      },
    ];
  }
  const first = atTicks - passage.startTicks;
  const end = lastShownTicks(passage);
  if (first < SHORTEST_PASSAGE_TICKS || end - first < SHORTEST_PASSAGE_TICKS) return [];
  const offsetTicks = passage.offsetTicks ?? 0;
  const later = passage.notes.filter(({ startTicks }) => startTicks >= offsetTicks + first);
  const edits: SimpleEdit[] = [];
  if (later.length > 0)
    edits.push({ type: 'passage.notes', ...place, remove: later.map(({ id }) => id), put: [] });
  edits.push(
    { type: 'passage.set', ...place, patch: { lengthTicks: first, offsetTicks } },
    {
      type: 'passage.add',
      partId: part.id,
      passage: {
        ...passage,
        id: createId(),
        startTicks: toTicks,
        offsetTicks: offsetTicks + first,
        lengthTicks: end - first,
        notes: later,
      },
      index: indexIn(part, passage) + 1,
    },
  );
  return edits;
}

const indexIn = (part: Part, passage: Passage) => (part.passages as Passage[]).indexOf(passage);

/** Where a passage of notes ends, with what sounds beyond its length as long as it is no window. */
function lastShownTicks({ offsetTicks, lengthTicks, notes }: NotePassage): Ticks {
  if (offsetTicks !== undefined) return lengthTicks;
  return notes.reduce((end, note) => Math.max(end, note.startTicks + note.lengthTicks), lengthTicks);
}

/**
 * Makes one of the passages of each part. Pieces of a recording must follow each other in it and in the song; notes can
 * always be joined. Throws {@link EditError} where nothing can be joined, with the reason.
 */
export function planJoin(found: readonly Found[], time: TimeMap): Edit {
  const edits: SimpleEdit[] = [];
  let apart = false;
  for (const [part, passages] of byPart(found)) {
    if (passages.length < 2) continue;
    if (part.kind === 'recording') {
      const joined = joinedRecordings(part, passages as RecordingPassage[], time);
      if (joined) edits.push(...joined);
      else apart = true;
    } else edits.push(...joinedNotes(part, passages as NotePassage[]));
  }
  const edit = asEdit(edits);
  if (edit) return edit;
  throw new EditError(
    apart
      ? 'Only pieces of one recording that follow each other, in it and in the song, can be joined. Move them together first.'
      : 'Choose at least two passages of one part to join them.',
  );
}

function byPart(found: readonly Found[]): Map<Part, Passage[]> {
  const parts = new Map<Part, Passage[]>();
  for (const { part, passage } of found) parts.set(part, [...(parts.get(part) ?? []), passage]);
  return parts;
}

function joinedRecordings(
  part: RecordingPart,
  passages: readonly RecordingPassage[],
  time: TimeMap,
): SimpleEdit[] | undefined {
  const [first] = passages;
  for (let i = 1; i < passages.length; i++) {
    const [before, after] = [passages[i - 1], passages[i]];
    const end = passageEndSeconds(before, time);
    const inTake = after.offsetSeconds - before.offsetSeconds - before.durationSeconds;
    if (after.takeId !== before.takeId || !sameClock(before, after)) return undefined;
    if (Math.abs(inTake) > MEETING_SECONDS) return undefined;
    if (Math.abs(time.secondsAt(after.startTicks) - end) > MEETING_SECONDS) return undefined;
  }
  const last = passages[passages.length - 1];
  return [
    ...passages
      .slice(1)
      .map(({ id }): SimpleEdit => ({ type: 'passage.remove', partId: part.id, passageId: id })),
    {
      type: 'passage.set',
      partId: part.id,
      passageId: first.id,
      patch: {
        durationSeconds: passages.reduce((sum, each) => sum + each.durationSeconds, 0),
        ...(last.fadeOutSeconds !== first.fadeOutSeconds && { fadeOutSeconds: last.fadeOutSeconds ?? null }),
      },
    },
  ];
}

function joinedNotes(part: NotePart, passages: readonly NotePassage[]): SimpleEdit[] {
  const [first] = passages;
  if (passages.some(({ take }) => take !== first.take))
    throw new EditError(
      `These passages are of different takes. “Print as one” under the takes of ${part.name} makes one of what you have chosen.`,
    );
  const place = { partId: part.id, passageId: first.id };
  const rest = passages.slice(1);
  const edits = rest.map(({ id }): SimpleEdit => ({
    type: 'passage.remove',
    partId: part.id,
    passageId: id,
  }));
  const end = Math.max(...passages.map((each) => each.startTicks + lastShownTicks(each)));
  // Halves of one passage count from the same place, and follow each other: what each hides comes along.
  const origin = notesOriginTicks(first);
  const follow = passages.every(
    (each, i) =>
      each.offsetTicks !== undefined &&
      notesOriginTicks(each) === origin &&
      (i === 0 || each.startTicks === passages[i - 1].startTicks + passages[i - 1].lengthTicks),
  );
  if (follow) {
    const notes = passages.flatMap((each) => each.notes);
    const lengthTicks = end - first.startTicks;
    const whole =
      first.offsetTicks === 0 && notes.every((note) => note.startTicks + note.lengthTicks <= lengthTicks);
    return [
      ...edits,
      { type: 'passage.set', ...place, patch: { lengthTicks, ...(whole && { offsetTicks: null }) } },
      { type: 'passage.notes', ...place, remove: [], put: rest.flatMap((each) => each.notes) },
    ];
  }
  const heard = placedNotes({ ...part, passages: [...passages] }).map((note) => ({
    ...note,
    startTicks: note.startTicks - first.startTicks,
  }));
  const kept = new Set(heard.map(({ id }) => id));
  const start = Math.min(0, ...heard.map(({ startTicks }) => startTicks));
  return [
    ...edits,
    {
      type: 'passage.set',
      ...place,
      patch: {
        startTicks: first.startTicks + start,
        lengthTicks: end - first.startTicks - start,
        ...(first.offsetTicks !== undefined && { offsetTicks: null }),
      },
    },
    {
      type: 'passage.notes',
      ...place,
      remove: first.notes.filter(({ id }) => !kept.has(id)).map(({ id }) => id),
      put: heard.map((note): Note => ({ ...note, startTicks: note.startTicks - start })),
    },
  ];
}

const sameClock = (a: RecordingPassage, b: RecordingPassage) =>
  (!isWarped(a) && !isWarped(b)) || isSameClock(a.clock, b.clock);

/** How much of its recording a passage has shown at a tick. */
export function recordedUntil(passage: RecordingPassage, atTicks: Ticks, time: TimeMap): Seconds {
  return snapped(
    isWarped(passage)
      ? createPassageTime(passage, time).toSeconds(atTicks) - passage.offsetSeconds
      : time.secondsAt(atTicks) - time.secondsAt(passage.startTicks),
  );
}

/** Where an edge of a passage can go: not beyond its recording, nor over another passage of the same take. */
export function edgeLimits(
  { part, passage }: Found,
  edge: 'start' | 'end',
  time: TimeMap,
  /** Length of its recording. */
  recordedSeconds: Seconds,
): { from: Ticks; to: Ticks } {
  const end = passageEndTicks(passage, time);
  if (passage.type === 'notes') {
    return edge === 'start'
      ? { from: Math.max(0, notesOriginTicks(passage)), to: end - SHORTEST_PASSAGE_TICKS }
      : { from: passage.startTicks + SHORTEST_PASSAGE_TICKS, to: MAX_TICKS };
  }
  const { toTicks } = createPassageTime(passage, time);
  const { offsetSeconds, durationSeconds } = passage;
  const others = siblings(part, passage).filter(({ spare }) => !spare);
  if (edge === 'start') {
    const before = others.filter((each) => each.offsetSeconds < offsetSeconds);
    const from = Math.max(0, ...before.map((each) => each.offsetSeconds + each.durationSeconds));
    return {
      from: Math.max(0, Math.ceil(toTicks(from) - 1e-6)),
      to: Math.floor(toTicks(offsetSeconds + durationSeconds - SHORTEST_PASSAGE_SECONDS)),
    };
  }
  const after = others.filter((each) => each.offsetSeconds > offsetSeconds);
  const to = Math.min(recordedSeconds, ...after.map((each) => each.offsetSeconds));
  return {
    from: Math.ceil(toTicks(offsetSeconds + SHORTEST_PASSAGE_SECONDS)),
    to: Math.max(end, Math.floor(toTicks(to) + 1e-6)),
  };
}

/**
 * Puts an edge of a passage at a tick, or as near to it as it can go. What is hidden stays in the song. Undefined where
 * the edge would not move.
 */
export function planTrim(
  found: Found,
  edge: 'start' | 'end',
  toTicks: Ticks,
  time: TimeMap,
  recordedSeconds: Seconds,
): Edit | undefined {
  const { passage } = found;
  const { from, to } = edgeLimits(found, edge, time, recordedSeconds);
  const at = Math.max(from, Math.min(to, Math.round(toTicks)));
  const place = placeOf(found);
  if (passage.type === 'notes') {
    const offsetTicks = passage.offsetTicks ?? 0;
    const end = passage.startTicks + lastShownTicks(passage);
    if (edge === 'end')
      return at === end
        ? undefined
        : { type: 'passage.set', ...place, patch: { lengthTicks: at - passage.startTicks, offsetTicks } };
    const by = at - passage.startTicks;
    if (by === 0) return undefined;
    const patch = { startTicks: at, offsetTicks: offsetTicks + by, lengthTicks: end - at };
    return { type: 'passage.set', ...place, patch };
  }
  if (edge === 'start') {
    const by = recordedUntil(passage, at, time);
    if (at === passage.startTicks) return undefined;
    const offsetSeconds = Math.max(0, passage.offsetSeconds + by);
    const durationSeconds = passage.offsetSeconds + passage.durationSeconds - offsetSeconds;
    return withRoom(found, offsetSeconds, durationSeconds, time, {
      type: 'passage.set',
      ...place,
      patch: { startTicks: at, offsetSeconds, durationSeconds },
    });
  }
  // At the end of its recording a passage ends with its last sample, not with a tick.
  const wanted = at >= to ? edgeSeconds(found, recordedSeconds) : recordedUntil(passage, at, time);
  if (Math.abs(wanted - passage.durationSeconds) < CUT_SECONDS) return undefined;
  return withRoom(found, passage.offsetSeconds, wanted, time, {
    type: 'passage.set',
    ...place,
    patch: { durationSeconds: wanted },
  });
}

/** The other passages of the take of a passage. */
function siblings(part: Part, passage: Passage): RecordingPassage[] {
  if (passage.type !== 'recording') return [];
  return (part.passages as RecordingPassage[]).filter(
    ({ takeId, id }) => takeId === passage.takeId && id !== passage.id,
  );
}

/** What was not chosen of the same take makes room for the window that a passage gets. */
function withRoom(
  found: Found,
  offsetSeconds: Seconds,
  durationSeconds: Seconds,
  time: TimeMap,
  set: SimpleEdit,
): Edit {
  const end = offsetSeconds + durationSeconds;
  const edits = siblings(found.part, found.passage).flatMap((each): SimpleEdit[] => {
    const eachEnd = each.offsetSeconds + each.durationSeconds;
    if (!each.spare || each.offsetSeconds >= end || eachEnd <= offsetSeconds) return [];
    const place = { partId: found.part.id, passageId: each.id };
    const [before, after] = [offsetSeconds - each.offsetSeconds, eachEnd - end];
    if (Math.max(before, after) < SHORTEST_PASSAGE_SECONDS) return [{ type: 'passage.remove', ...place }];
    if (before >= after) return [{ type: 'passage.set', ...place, patch: { durationSeconds: before } }];
    const startTicks = Math.max(0, Math.round(createPassageTime(each, time).toTicks(end)));
    return [
      { type: 'passage.set', ...place, patch: { startTicks, offsetSeconds: end, durationSeconds: after } },
    ];
  });
  return edits.length === 0 ? set : { type: 'batch', edits: [...edits, set] };
}

/** How long a passage of a recording can be, from its offset on. */
function edgeSeconds({ part, passage }: Found, recordedSeconds: Seconds): Seconds {
  const { offsetSeconds } = passage as RecordingPassage;
  const after = siblings(part, passage).filter((each) => !each.spare && each.offsetSeconds > offsetSeconds);
  return Math.min(recordedSeconds, ...after.map((each) => each.offsetSeconds)) - offsetSeconds;
}

/** Whether a passage stands in a take table without being chosen. */
export const isSpare = (passage: Passage): boolean => passage.spare === true;

/** Those of the passages that are chosen, or stand in no take table. */
export function withoutSpares(song: Song, places: readonly PassagePlace[]): PassagePlace[] {
  return places.filter((place) => !findPassages(song, [place]).some(({ passage }) => isSpare(passage)));
}

/** The same passages, with what was not chosen beside them: the takes of a phrase stay together. */
export function withSpares(found: readonly Found[], time: TimeMap): Found[] {
  const all = new Set(found.map(({ passage }) => passage));
  const more: Found[] = [];
  for (const [part, passages] of byPart(found)) {
    const spans = passages.map((each) => [each.startTicks, passageEndTicks(each, time)]);
    for (const passage of part.passages as Passage[]) {
      if (!passage.spare || all.has(passage)) continue;
      const [start, end] = [passage.startTicks, passageEndTicks(passage, time)];
      const beside = spans.some(
        ([from, to]) => 2 * (Math.min(to, end) - Math.max(from, start)) > end - start,
      );
      if (beside) more.push({ part, passage });
    }
  }
  return [...found, ...more];
}

/** Moves passages together; nothing goes before the song. Undefined where nothing moves. */
export function planMove(found: readonly Found[], byTicks: Ticks): Edit | undefined {
  if (found.length === 0) return undefined;
  const by = Math.max(Math.round(byTicks), -Math.min(...found.map(({ passage }) => passage.startTicks)));
  if (by === 0) return undefined;
  return asEdit(
    found.map((each) => ({
      type: 'passage.set',
      ...placeOf(each),
      patch: { startTicks: each.passage.startTicks + by },
    })),
  );
}

/** Removes passages, and takes that no passage shows any more. */
export function planPassageRemoval(found: readonly Found[]): Edit | undefined {
  const edits: SimpleEdit[] = found.map((each) => ({ type: 'passage.remove', ...placeOf(each) }));
  for (const [part, passages] of byPart(found)) {
    if (part.kind !== 'recording') continue;
    const left = new Set(
      part.passages.filter((each) => !passages.includes(each)).map(({ takeId }) => takeId),
    );
    const gone = new Set((passages as RecordingPassage[]).map(({ takeId }) => takeId));
    for (const takeId of gone)
      if (!left.has(takeId)) edits.push({ type: 'take.remove', partId: part.id, takeId });
  }
  return asEdit(edits);
}
