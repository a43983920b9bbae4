/** Editing all passages of a part as one: each edit goes to the passage that holds its notes, as one step. */
import type { Seconds } from '@plundra/core/signal';
import type { SimpleEdit, TimeMap } from '@plundra/core/song';
import { inOrder, type CanvasNote } from './canvasNote.ts';
import type { Clip, LabelledEdit, NoteEditing } from './noteEditing.ts';

/** The notes of one passage, and where it lies in the song. */
export interface PlacedEditing {
  editing: NoteEditing;
  fromSeconds: Seconds;
  toSeconds: Seconds;
}

type Ids = ReadonlySet<string>;

/** `placed`: in order of their start. Of a single passage its own editing; null of none. */
export function acrossPassages(placed: readonly PlacedEditing[], time: TimeMap): NoteEditing | null {
  if (placed.length < 2) return placed.at(0)?.editing ?? null;
  const first = placed[0].editing;
  const owners = new Map<string, NoteEditing>();
  const all: CanvasNote[] = [];
  for (const { editing } of placed)
    for (const note of editing.notes) {
      owners.set(note.id, editing);
      all.push(note);
    }
  const ownersOf = (ids: Ids): Map<NoteEditing, Set<string>> => {
    const groups = new Map<NoteEditing, Set<string>>();
    for (const id of ids) {
      const owner = owners.get(id);
      if (!owner) continue;
      const group = groups.get(owner);
      if (group) group.add(id);
      else groups.set(owner, new Set([id]));
    }
    return groups;
  };
  const each = (ids: Ids, work: (editing: NoteEditing, ids: Ids) => LabelledEdit | undefined) =>
    together([...ownersOf(ids)].map(([editing, own]) => work(editing, own)));
  /** The last passage that has begun, or the first. */
  const passageAt = (seconds: Seconds) =>
    placed.findLast(({ fromSeconds }) => fromSeconds <= seconds + 1e-6) ?? placed[0];
  return {
    unpitched: first.unpitched,
    snaps: first.snaps,
    notes: inOrder(all),
    move: (ids, move) => each(ids, (editing, own) => editing.move(own, move)),
    trim: (id, startSeconds, endSeconds) => owners.get(id)?.trim(id, startSeconds, endSeconds),
    draw: (startSeconds, endSeconds, midi) =>
      passageAt(startSeconds).editing.draw(startSeconds, endSeconds, midi),
    cut: (id, atSeconds) => owners.get(id)?.cut(id, atSeconds),
    join: (ids) => each(ids, (editing, own) => (own.size > 1 ? editing.join(own) : undefined)),
    drop: (ids) => each(ids, (editing, own) => editing.drop(own)),
    octave: (ids, octaves) => each(ids, (editing, own) => editing.octave(own, octaves)),
    setVelocity: (ids, change) => each(ids, (editing, own) => editing.setVelocity(own, change)),
    setPitch: (ids, midi) => each(ids, (editing, own) => editing.setPitch(own, midi)),
    mute: (ids, muted) => each(ids, (editing, own) => editing.mute(own, muted)),
    copy(ids) {
      const notes = [...ownersOf(ids)].flatMap(([editing, own]) => editing.copy(own)?.notes ?? []);
      return notes.length > 0 ? { notes } : undefined;
    },
    paste(clip, byTicks) {
      const groups = new Map<NoteEditing, Clip['notes']>();
      for (const note of clip.notes) {
        const { editing } = passageAt(time.secondsAt(Math.max(0, note.startTicks + byTicks)));
        groups.set(editing, [...(groups.get(editing) ?? []), note]);
      }
      return together([...groups].map(([editing, notes]) => editing.paste({ notes }, byTicks)));
    },
    ...(placed.some(({ editing }) => editing.setLyric) && {
      setLyric: (id: string, lyric: string) => owners.get(id)?.setLyric?.(id, lyric),
    }),
    ...(placed.some(({ editing }) => editing.straighten) && {
      straighten: (ids: Ids) => each(ids, (editing, own) => editing.straighten?.(own)),
    }),
    ...(placed.some(({ editing }) => editing.keep) && {
      keep: (ids: Ids) => each(ids, (editing, own) => editing.keep?.(own)),
    }),
  };
}

/** Several edits as one step, which says how many notes it changes in all. */
export function together(edits: readonly (LabelledEdit | undefined)[]): LabelledEdit | undefined {
  const made = edits.filter((each) => each !== undefined);
  if (made.length < 2) return made.at(0);
  const select = made.flatMap((each) => each.select ?? []);
  return {
    label: sumOfLabels(made.map(({ label }) => label)),
    edit: {
      type: 'batch',
      edits: made.flatMap(({ edit }): SimpleEdit[] => (edit.type === 'batch' ? edit.edits : [edit])),
    },
    ...(made.some((each) => each.select) && { select }),
    ...(made.some((each) => each.reveal) && { reveal: true as const }),
  };
}

/** "Tune 3 notes" and "Tune 1 note" are "Tune 4 notes"; of labels that count nothing the first. */
function sumOfLabels(labels: readonly string[]): string {
  const counted = labels.map((label) => /^(.*?)(\d+) (note|hit|onset)s?\b(.*)$/.exec(label));
  const [head] = counted;
  if (!head || counted.some((each) => !each)) return labels[0];
  const sum = counted.reduce((total, each) => total + Number(each![2]), 0);
  return `${head[1]}${sum} ${head[3]}s${head[4]}`;
}
