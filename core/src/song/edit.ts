/**
 * Edits: the only way a song changes. An edit is plain data; `applyEdit` is pure and returns the new song with
 * the edit that takes it back. Web, server, command line and tests use this one function.
 */
import { z } from 'zod';
import {
  bendSchema,
  changeSchema,
  followsSchema,
  keySchema,
  lineNoteSchema,
  lineSchema,
  MATERIALS,
  metreMapSchema,
  noteSchema,
  partSchema,
  passageSchema,
  recordingPassageSchema,
  songSchema,
  stretchSchema,
  tempoMapSchema,
  type Change,
  type Line,
  type LineNote,
  type Note,
  type Part,
  type Passage,
  type Song,
} from './schema.ts';

const id = z.string().min(1).max(64);
const place = { partId: id, passageId: id };

/** Fields of a part that are set directly; which of them a part has depends on its kind. */
const partPatchSchema = z
  .object({
    name: z.string().trim().min(1).max(120),
    mark: z.string().min(1).max(2),
    colour: z.number().int().min(0).max(9),
    levelDb: z.number().min(-60).max(12),
    pan: z.number().min(-1).max(1),
    mute: z.boolean(),
    solo: z.boolean(),
    program: z.number().int().min(0).max(127),
    material: z.enum(MATERIALS),
  })
  .partial();

const songPatchSchema = z
  .object({
    title: z.string().trim().min(1).max(200),
    key: keySchema.nullable(),
    tempoMap: tempoMapSchema,
    metreMap: metreMapSchema,
    followOff: z.boolean(),
    chordKeys: songSchema.shape.chordKeys.unwrap(),
    sections: songSchema.shape.sections.unwrap(),
  })
  .partial();

const passagePatchSchema = z
  .object({
    startTicks: z.number().int().min(0),
    lengthTicks: z.number().int().min(0),
    offsetSeconds: z.number().min(0),
    durationSeconds: z.number().min(0),
    bends: z.array(bendSchema).max(500_000),
  })
  .partial();

const simpleEditSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('song.set'), patch: songPatchSchema }),
  z.object({ type: z.literal('part.add'), part: partSchema, index: z.number().int().min(0) }),
  z.object({ type: z.literal('part.remove'), partId: id }),
  z.object({ type: z.literal('part.set'), partId: id, patch: partPatchSchema }),
  z.object({ type: z.literal('part.follow'), partId: id, follows: followsSchema.nullable() }),
  z.object({ type: z.literal('part.move'), partId: id, index: z.number().int().min(0) }),
  z.object({ type: z.literal('passage.add'), partId: id, passage: passageSchema }),
  z.object({ type: z.literal('passage.remove'), ...place }),
  z.object({ type: z.literal('passage.set'), ...place, patch: passagePatchSchema }),
  z.object({ type: z.literal('passage.stretch'), ...place, stretch: stretchSchema.nullable() }),
  z.object({
    type: z.literal('passage.chords'),
    ...place,
    chords: recordingPassageSchema.shape.chords.unwrap().nullable(),
  }),
  z.object({ type: z.literal('line.set'), ...place, line: lineSchema.nullable() }),
  z.object({ type: z.literal('line.tuning'), ...place, tuningCents: z.number().min(-50).max(50) }),
  z.object({ type: z.literal('line.formants'), ...place, semitones: z.number().min(-12).max(12) }),
  z.object({
    type: z.literal('line.notes'),
    ...place,
    remove: z.array(id).max(200_000),
    put: z.array(lineNoteSchema).max(200_000),
  }),
  z.object({
    type: z.literal('passage.notes'),
    ...place,
    remove: z.array(id).max(200_000),
    put: z.array(noteSchema).max(200_000),
  }),
  z.object({
    type: z.literal('changes.put'),
    remove: z.array(id).max(20_000),
    put: z.array(changeSchema).max(20_000),
  }),
]);

export const editSchema = z.union([
  simpleEditSchema,
  z.object({ type: z.literal('batch'), edits: z.array(simpleEditSchema).min(1).max(1000) }),
]);

export type SimpleEdit = z.infer<typeof simpleEditSchema>;
export type Edit = z.infer<typeof editSchema>;

/** An edit that does not fit the song, e.g. one that names a part which is gone. The song is unchanged. */
export class EditError extends Error {
  override name = 'EditError';
}

/** What a song has that was never set. */
const UNSET = { followOff: false, chordKeys: [], sections: [] };

export interface Applied {
  song: Song;
  inverse: Edit;
}

/** Applies an edit. Throws {@link EditError} when it names something that is not there. */
export function applyEdit(song: Song, edit: Edit): Applied {
  if (edit.type !== 'batch') return applySimple(song, edit);
  const inverses: SimpleEdit[] = [];
  let current = song;
  for (const each of edit.edits) {
    const applied = applySimple(current, each);
    current = applied.song;
    inverses.unshift(applied.inverse);
  }
  return { song: current, inverse: { type: 'batch', edits: inverses } };
}

function applySimple(song: Song, edit: SimpleEdit): { song: Song; inverse: SimpleEdit } {
  switch (edit.type) {
    case 'song.set':
      return {
        song: { ...song, ...edit.patch },
        inverse: { type: 'song.set', patch: pick({ ...UNSET, ...song }, Object.keys(edit.patch)) },
      };
    case 'part.add': {
      if (song.parts.some((part) => part.id === edit.part.id))
        throw new EditError('This part is in the song already.');
      const parts = [...song.parts];
      parts.splice(Math.min(edit.index, parts.length), 0, edit.part);
      return { song: { ...song, parts }, inverse: { type: 'part.remove', partId: edit.part.id } };
    }
    case 'part.remove': {
      const index = partIndex(song, edit.partId);
      const parts = song.parts.filter((_, i) => i !== index);
      return { song: { ...song, parts }, inverse: { type: 'part.add', part: song.parts[index], index } };
    }
    case 'part.move': {
      const index = partIndex(song, edit.partId);
      const parts = song.parts.filter((_, i) => i !== index);
      parts.splice(Math.min(edit.index, parts.length), 0, song.parts[index]);
      return { song: { ...song, parts }, inverse: { type: 'part.move', partId: edit.partId, index } };
    }
    case 'part.set': {
      const part = song.parts[partIndex(song, edit.partId)];
      for (const field of Object.keys(edit.patch)) {
        if (!(field in part)) throw new EditError(`A ${part.kind} part has no ${field}.`);
      }
      return {
        song: withPart(song, { ...part, ...edit.patch } as Part),
        inverse: { type: 'part.set', partId: part.id, patch: pick(part, Object.keys(edit.patch)) },
      };
    }
    case 'part.follow': {
      const part = song.parts[partIndex(song, edit.partId)];
      if (part.kind === 'drums') throw new EditError('Drums do not follow the changes.');
      const { follows: before, ...rest } = part;
      return {
        song: withPart(song, (edit.follows ? { ...rest, follows: edit.follows } : rest) as Part),
        inverse: { ...edit, follows: before ?? null },
      };
    }
    case 'passage.add': {
      const part = song.parts[partIndex(song, edit.partId)];
      const fits = (part.kind === 'recording') === (edit.passage.type === 'recording');
      if (!fits) throw new EditError('Recordings and notes cannot share a part.');
      if (part.passages.some((each) => each.id === edit.passage.id)) {
        throw new EditError('This passage is in the part already.');
      }
      return {
        song: withPart(song, { ...part, passages: [...part.passages, edit.passage] } as Part),
        inverse: { type: 'passage.remove', partId: part.id, passageId: edit.passage.id },
      };
    }
    case 'passage.remove': {
      const { part, passage } = find(song, edit);
      const passages = (part.passages as Passage[]).filter((each) => each.id !== passage.id);
      return {
        song: withPart(song, { ...part, passages } as Part),
        inverse: { type: 'passage.add', partId: part.id, passage },
      };
    }
    case 'passage.set': {
      const { part, passage } = find(song, edit);
      const fields = Object.keys(edit.patch);
      const before = pick({ bends: [], ...passage }, fields);
      return {
        song: withPassage(song, part, { ...passage, ...edit.patch } as Passage),
        inverse: { type: 'passage.set', partId: part.id, passageId: passage.id, patch: before },
      };
    }
    case 'passage.stretch': {
      const { part, passage } = find(song, edit);
      if (passage.type !== 'recording') throw new EditError('Only a recording can be stretched.');
      const { stretch: before, ...rest } = passage;
      return {
        song: withPassage(song, part, edit.stretch ? { ...rest, stretch: edit.stretch } : rest),
        inverse: { ...edit, stretch: before ?? null },
      };
    }
    case 'passage.chords': {
      const { part, passage } = find(song, edit);
      if (passage.type !== 'recording') throw new EditError('Only a recording has changes of its own.');
      const { chords: before, ...rest } = passage;
      return {
        song: withPassage(song, part, edit.chords ? { ...rest, chords: edit.chords } : rest),
        inverse: { ...edit, chords: before ?? null },
      };
    }
    case 'line.set': {
      const { part, passage } = find(song, edit);
      if (passage.type !== 'recording') throw new EditError('Only a recording has a line.');
      return {
        song: withPassage(song, part, { ...passage, line: edit.line && sortedLine(edit.line) }),
        inverse: { type: 'line.set', partId: part.id, passageId: passage.id, line: passage.line },
      };
    }
    case 'line.tuning': {
      const { part, passage, line } = findLine(song, edit);
      return {
        song: withPassage(song, part, { ...passage, line: { ...line, tuningCents: edit.tuningCents } }),
        inverse: { ...edit, tuningCents: line.tuningCents },
      };
    }
    case 'line.formants': {
      const { part, passage, line } = findLine(song, edit);
      return {
        song: withPassage(song, part, { ...passage, line: { ...line, formantSemitones: edit.semitones } }),
        inverse: { ...edit, semitones: line.formantSemitones ?? 0 },
      };
    }
    case 'line.notes': {
      const { part, passage, line } = findLine(song, edit);
      const { notes, undo } = changeNotes(line.notes, edit, byStartSeconds);
      return {
        song: withPassage(song, part, { ...passage, line: { ...line, notes } }),
        inverse: { ...edit, ...undo },
      };
    }
    case 'passage.notes': {
      const { part, passage } = find(song, edit);
      if (passage.type !== 'notes')
        throw new EditError('A recording holds no notes of its own; edit its line.');
      const { notes, undo } = changeNotes(passage.notes, edit, byStartTicks);
      return { song: withPassage(song, part, { ...passage, notes }), inverse: { ...edit, ...undo } };
    }
    case 'changes.put': {
      const { notes: changes, undo } = changeNotes(song.changes ?? [], edit, byStart);
      if (changes.some((change, i) => i > 0 && change.startTicks === changes[i - 1].startTicks))
        throw new EditError('Two chords cannot start at the same place.');
      return { song: { ...song, changes }, inverse: { ...edit, ...undo } };
    }
  }
}

const byStart = (a: Change, b: Change) => a.startTicks - b.startTicks;
const byStartSeconds = (a: LineNote, b: LineNote) => a.startSeconds - b.startSeconds || a.midi - b.midi;
const byStartTicks = (a: Note, b: Note) => a.startTicks - b.startTicks || a.midi - b.midi;

function sortedLine(line: Line): Line {
  return { ...line, notes: [...line.notes].sort(byStartSeconds) };
}

/** Removes and puts notes by id; putting a note that exists replaces it. Keeps them in order of their start. */
function changeNotes<N extends { id: string }>(
  notes: readonly N[],
  change: { remove: string[]; put: N[] },
  order: (a: N, b: N) => number,
): { notes: N[]; undo: { remove: string[]; put: N[] } } {
  const gone = new Set(change.remove);
  const replaced = new Map(change.put.map((note) => [note.id, note]));
  const before: N[] = [];
  const known = new Set<string>();
  const kept: N[] = [];
  for (const note of notes) {
    if (gone.has(note.id) || replaced.has(note.id)) {
      before.push(note);
      known.add(note.id);
    } else {
      kept.push(note);
    }
  }
  for (const noteId of gone) {
    if (!known.has(noteId)) throw new EditError('A note that should be removed is not there any more.');
  }
  const merged = [...kept, ...replaced.values()].sort(order);
  const added = change.put.filter((note) => !known.has(note.id)).map((note) => note.id);
  return { notes: merged, undo: { remove: added, put: before } };
}

function partIndex(song: Song, partId: string): number {
  const index = song.parts.findIndex((part) => part.id === partId);
  if (index < 0) throw new EditError('This part is not in the song any more.');
  return index;
}

function find(song: Song, { partId, passageId }: { partId: string; passageId: string }) {
  const part = song.parts[partIndex(song, partId)];
  const passage = (part.passages as Passage[]).find((each) => each.id === passageId);
  if (!passage) throw new EditError('This passage is not in the part any more.');
  return { part, passage };
}

function findLine(song: Song, at: { partId: string; passageId: string }) {
  const { part, passage } = find(song, at);
  if (passage.type !== 'recording' || !passage.line) {
    throw new EditError('This recording has no line yet; read its melody first.');
  }
  return { part, passage, line: passage.line };
}

function withPart(song: Song, part: Part): Song {
  return { ...song, parts: song.parts.map((each) => (each.id === part.id ? part : each)) };
}

function withPassage(song: Song, part: Part, passage: Passage): Song {
  const passages = (part.passages as Passage[]).map((each) => (each.id === passage.id ? passage : each));
  return withPart(song, { ...part, passages } as Part);
}

function pick<T extends object>(from: T, fields: string[]): Partial<T> {
  return Object.fromEntries(fields.map((field) => [field, from[field as keyof T]])) as Partial<T>;
}
