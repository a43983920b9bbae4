/**
 * Says an edit in fewer words: one that moves many notes by the same amount says how far, instead of naming each note
 * as it will be. `applyEdit` gives the same song for both.
 */
import type { Edit, SimpleEdit } from './editSchema.ts';
import { railMidi, wantedSpan } from './lineNotes.ts';
import { adjustLineNote, adjustNote, type LineAdjustment, type NoteAdjustment } from './noteChanges.ts';
import type { Line, LineNote, Note, Song } from './schema.ts';

/** Fewer notes than this are named one by one: that is as short, and easier to read. */
const FEWEST = 8;
/** Distances are tried as they are and rounded to this many digits: (60.1 + 5) − 60.1 is not 5. */
const DIGITS = 9;

/** The same edit, shorter where it can be; `song`: the one it will be applied to. */
export function compactEdit(song: Song, edit: Edit): Edit {
  if (edit.type !== 'batch') return compactSimple(song, edit, NOTHING);
  // What an earlier edit of the batch touched is not known here; edits after it are left as they are.
  const touched = new Set<string>();
  const edits = edit.edits.map((each) => {
    const compact = compactSimple(song, each, touched);
    touched.add(placeOf(each));
    return compact;
  });
  return edits.some((each, i) => each !== edit.edits[i]) ? { type: 'batch', edits } : edit;
}

const NOTHING: ReadonlySet<string> = new Set();

/** Part and passage or take an edit acts on; '' is anywhere. */
function placeOf(edit: SimpleEdit): string {
  if (edit.type === 'song.set' || edit.type === 'changes.put') return 'song';
  if ('takeId' in edit) return `${edit.partId}/take/${edit.takeId}`;
  return 'passageId' in edit && edit.type !== 'passage.copy' ? `${edit.partId}/${edit.passageId}` : '';
}

function compactSimple(song: Song, edit: SimpleEdit, touched: ReadonlySet<string>): SimpleEdit {
  if (edit.type !== 'passage.notes' && edit.type !== 'line.notes') return edit;
  if (edit.remove.length > 0 || edit.put.length < FEWEST) return edit;
  if (touched.has('') || touched.has(placeOf(edit))) return edit;
  const part = song.parts.find(({ id }) => id === edit.partId);
  if (edit.type === 'passage.notes') {
    if (!part || part.kind === 'recording') return edit;
    const passage = part.passages.find(({ id }) => id === edit.passageId);
    const adjustment = passage && noteAdjustmentOf(passage.notes, edit.put);
    const { partId, passageId } = edit;
    return adjustment ? { type: 'passage.adjust', partId, passageId, ...adjustment } : edit;
  }
  const line = part?.kind === 'recording' && part.takes.find(({ id }) => id === edit.takeId)?.line;
  const adjustment = line ? lineAdjustmentOf(line, edit.put) : undefined;
  const { partId, takeId } = edit;
  return adjustment ? { type: 'line.adjust', partId, takeId, ...adjustment } : edit;
}

/** The adjustment that turns the notes with these ids into `after`, where one does it for all. */
export function noteAdjustmentOf(notes: readonly Note[], after: readonly Note[]): NoteAdjustment | undefined {
  const pairs = pairsOf(notes, after);
  if (!pairs) return undefined;
  const add: NoteAdjustment['add'] = {};
  const set: NoteAdjustment['set'] = {};
  const [[from, to]] = pairs;
  for (const field of ['startTicks', 'midi', 'velocity'] as const) {
    const by = to[field] - from[field];
    if (pairs.every(([a, b]) => b[field] - a[field] === by)) {
      if (by !== 0) add[field] = by;
    } else if (field !== 'startTicks') set[field] = to[field];
  }
  if (pairs.some(([a, b]) => a.muted !== b.muted)) set.muted = to.muted ?? false;
  const adjustment = { which: whichOf(notes, after), add, set };
  return fits(pairs, (note) => adjustNote(note, adjustment)) ? adjustment : undefined;
}

/** The same for the notes of a line. */
export function lineAdjustmentOf(
  line: Pick<Line, 'notes' | 'tuningCents'>,
  after: readonly LineNote[],
): LineAdjustment | undefined {
  const pairs = pairsOf(line.notes, after);
  if (!pairs) return undefined;
  const [[from, to]] = pairs;
  const set: LineAdjustment['set'] = {};
  const target: NonNullable<LineAdjustment['set']['target']> = {};
  const add: LineAdjustment['add'] = {};
  if (pairs.some(([a, b]) => a.confidence !== b.confidence)) set.confidence = to.confidence;
  const louder = to.velocity - from.velocity;
  if (!pairs.every(([a, b]) => b.velocity - a.velocity === louder)) set.velocity = to.velocity;
  else if (louder !== 0) add.velocity = louder;
  if (pairs.some(([a, b]) => a.muted !== b.muted)) set.muted = to.muted ?? false;
  for (const field of ['centre', 'vibratoKept', 'driftKept'] as const)
    if (pairs.some(([a, b]) => a.target?.[field] !== b.target?.[field]))
      target[field] = to.target?.[field] ?? null;

  const rails: (number | null | undefined)[] = [undefined];
  const seconds: (number | null | undefined)[] = [undefined];
  if (pairs.some(([a, b]) => a.target?.midi !== b.target?.midi))
    rails.splice(
      0,
      1,
      ...(to.target?.midi === undefined
        ? [null]
        : bothWays(to.target.midi - railMidi(from, line.tuningCents))),
    );
  if (
    pairs.some(
      ([a, b]) =>
        a.target?.startSeconds !== b.target?.startSeconds || a.target?.endSeconds !== b.target?.endSeconds,
    )
  )
    seconds.splice(
      0,
      1,
      ...(to.target?.startSeconds === undefined
        ? [null]
        : bothWays(to.target.startSeconds - wantedSpan(from).startSeconds)),
    );
  for (const rail of rails)
    for (const shift of seconds) {
      const targetPatch = {
        ...target,
        ...(rail === null && { midi: null }),
        ...(shift === null && { startSeconds: null, endSeconds: null }),
      };
      const adjustment: LineAdjustment = {
        which: whichOf(line.notes, after),
        add: {
          ...add,
          ...(typeof rail === 'number' && { railSemitones: rail }),
          ...(typeof shift === 'number' && { seconds: shift }),
        },
        set: { ...set, ...(Object.keys(targetPatch).length > 0 && { target: targetPatch }) },
      };
      if (fits(pairs, (note) => adjustLineNote(note, adjustment, line.tuningCents))) return adjustment;
    }
  return undefined;
}

const bothWays = (by: number) => [Number(by.toFixed(DIGITS)), by];

/** Notes with what becomes of them; undefined where there are none, or one of them is new. */
function pairsOf<N extends { id: string }>(notes: readonly N[], after: readonly N[]): [N, N][] | undefined {
  const known = new Map(notes.map((note) => [note.id, note]));
  const pairs: [N, N][] = [];
  for (const note of after) {
    const before = known.get(note.id);
    if (!before) return undefined;
    known.delete(note.id);
    pairs.push([before, note]);
  }
  return pairs.length > 0 ? pairs : undefined;
}

const whichOf = (notes: readonly { id: string }[], after: readonly { id: string }[]) =>
  after.length === notes.length ? ('all' as const) : after.map(({ id }) => id);

function fits<N extends object>(pairs: readonly [N, N][], adjust: (note: N) => N): boolean {
  try {
    return pairs.every(([before, after]) => sameData(adjust(before), after));
  } catch {
    // The adjustment would leave the range; the notes themselves stop at its edge.
    return false;
  }
}

/** Whether two notes say the same, whatever the order of their fields. */
function sameData(a: object, b: object): boolean {
  const [x, y] = [a as Record<string, unknown>, b as Record<string, unknown>];
  const fields = new Set([...Object.keys(x), ...Object.keys(y)]);
  for (const field of fields) {
    const [p, q] = [x[field], y[field]];
    const both = typeof p === 'object' && typeof q === 'object' && p !== null && q !== null;
    if (both ? !sameData(p, q) : p !== q) return false;
  }
  return true;
}
