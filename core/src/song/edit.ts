/**
 * Edits: the only way a song changes. An edit is plain data (editSchema.ts); `applyEdit` is pure and returns the new
 * song with the edit that takes it back. Web, server, command line and tests use this one function. What it accepts
 * leaves a song that its schema accepts: values are checked by the schema of the edit, amounts by limits.ts.
 */
import { lineAdjustmentOf, noteAdjustmentOf } from './compactEdit.ts';
import { checkEdit, EditError, type Edit, type EditOf, type SimpleEdit } from './editSchema.ts';
import {
  checkChords,
  checkNotes,
  checkNotesOfSong,
  checkParts,
  checkPassages,
  checkTakes,
} from './limits.ts';
import { checkWindow, checkWindows, copyEdits } from './takes.ts';
import {
  adjustLineNote,
  adjustNote,
  byStart,
  byStartSeconds,
  byStartTicks,
  changeNotes,
  namedNotes,
} from './noteChanges.ts';
import type { Line, LineNote, Part, Passage, RecordingPart, Song, Take } from './schema.ts';
import { insertionEdits, insertionInverse, removalEdits } from './songTime.ts';

/** Values that stand for a field that was never set. */
const UNSET = { followOff: false, chordKeys: [], sections: [], keyChanges: [], groups: [] };

export interface Applied {
  song: Song;
  /** Worked out when it is asked for: whoever only replays does not need it. */
  readonly inverse: Edit;
}

/**
 * Applies an edit. Throws {@link EditError} when it names something that is not there, or would leave a song that
 * cannot be: a value out of its range, or too much of something.
 */
export function applyEdit(song: Song, edit: Edit): Applied {
  const checked = checkEdit(edit);
  const applied = checked.type === 'batch' ? applyAll(song, checked.edits) : applySimple(song, checked);
  checkNotesOfSong(song, applied.song);
  return applied;
}

function applyAll(song: Song, edits: readonly SimpleEdit[]): Applied {
  const all: Applied[] = [];
  let current = song;
  for (let i = 0; i < edits.length;) {
    const sets = setsOfPart(edits, i);
    const applied = sets.length > 0 ? setPassages(current, sets) : applySimple(current, edits[i]);
    current = applied.song;
    all.push(applied);
    i += Math.max(1, sets.length);
  }
  return withInverse(current, () => ({
    type: 'batch',
    edits: all.reverse().flatMap(({ inverse }) => (inverse.type === 'batch' ? inverse.edits : [inverse])),
  }));
}

/** The inverse is worked out once, at the first question. */
function withInverse(song: Song, make: () => Edit): Applied {
  let inverse: Edit | undefined;
  return {
    song,
    get inverse() {
      return (inverse ??= make());
    },
  };
}

/** What of a recording a passage shows. */
const WINDOW_FIELDS: readonly string[] = ['offsetSeconds', 'durationSeconds'];

type PassageSet = EditOf<'passage.set'>;

/** Those that follow each other from one place on and change passages of one part. */
function setsOfPart(edits: readonly SimpleEdit[], from: number): PassageSet[] {
  const sets: PassageSet[] = [];
  for (let i = from; i < edits.length; i++) {
    const each = edits[i];
    if (each.type !== 'passage.set' || each.partId !== (sets[0] ?? each).partId) break;
    sets.push(each);
  }
  return sets;
}

/** In one go, so that moving hundreds of passages copies their part once. */
function setPassages(song: Song, edits: readonly PassageSet[]): Applied {
  const part = song.parts[partIndex(song, edits[0].partId)];
  const passages = [...(part.passages as Passage[])];
  const indexOf = new Map(passages.map(({ id }, i) => [id, i]));
  const before = edits.map((edit) => {
    const index = indexOf.get(edit.passageId);
    if (index === undefined) throw new EditError('This passage is not in the part any more.');
    const passage = passages[index];
    const patch = defined(edit.patch);
    const fields = Object.keys(patch);
    for (const field of fields)
      if (!FIELDS_OF[passage.type].includes(field))
        throw new EditError(
          `${passage.type === 'notes' ? 'A passage of notes' : 'A passage of a recording'} has no ${field}.`,
        );
    passages[index] = withoutNulls({ ...passage, ...patch }) as Passage;
    // Being moved changes no window.
    if (fields.some((field) => WINDOW_FIELDS.includes(field)))
      checkWindow({ ...part, passages } as Part, passages[index]);
    return { passage, fields };
  });
  return withInverse(withPart(song, { ...part, passages } as Part), () => {
    const back = before.reverse().map(({ passage, fields }): PassageSet => ({
      type: 'passage.set',
      partId: part.id,
      passageId: passage.id,
      patch: Object.fromEntries(
        fields.map((field) => [field, passage[field as keyof Passage] ?? null]),
      ) as PassageSet['patch'],
    }));
    return back.length === 1 ? back[0] : { type: 'batch', edits: back };
  });
}

function applySimple(song: Song, edit: SimpleEdit): Applied {
  switch (edit.type) {
    case 'time.insert': {
      const edits = insertionEdits(song, edit);
      return { song: applyAll(song, edits).song, inverse: insertionInverse(song, edit, edits) };
    }
    case 'time.remove':
      return applyAll(song, removalEdits(song, edit));
    case 'song.set':
      return {
        song: { ...song, ...defined(edit.patch) },
        inverse: { type: 'song.set', patch: pick({ ...UNSET, ...song }, Object.keys(defined(edit.patch))) },
      };
    case 'part.add': {
      if (song.parts.some((part) => part.id === edit.part.id))
        throw new EditError('This part is in the song already.');
      checkParts(song.parts.length + 1);
      checkWindows(edit.part);
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
      const patch = defined(edit.patch);
      for (const field of Object.keys(patch)) {
        if (!(field in part) && !OPTIONAL_OF[part.kind].includes(field))
          throw new EditError(`A ${part.kind} part has no ${field}.`);
      }
      return {
        song: withPart(song, withoutNulls({ ...part, ...patch }) as Part),
        inverse: {
          type: 'part.set',
          partId: part.id,
          patch: pick({ group: null, seamSeconds: null, ...part }, Object.keys(patch)),
        },
      };
    }
    case 'part.follow': {
      const part = song.parts[partIndex(song, edit.partId)];
      if (part.kind === 'drums') throw new EditError('Drums do not follow the chords.');
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
      checkPassages(part.passages.length + 1);
      const passages = [...(part.passages as Passage[])];
      passages.splice(edit.index ?? passages.length, 0, edit.passage);
      const after = { ...part, passages } as Part;
      checkWindow(after, edit.passage);
      return {
        song: withPart(song, after),
        inverse: { type: 'passage.remove', partId: part.id, passageId: edit.passage.id },
      };
    }
    case 'passage.remove': {
      const { part, passage } = find(song, edit);
      const before = part.passages as Passage[];
      const passages = before.filter((each) => each.id !== passage.id);
      return {
        song: withPart(song, { ...part, passages } as Part),
        inverse: { type: 'passage.add', partId: part.id, passage, index: before.indexOf(passage) },
      };
    }
    case 'passage.copy':
      return applyAll(song, copyEdits(song, edit));
    case 'passage.set':
      return setPassages(song, [edit]);
    case 'take.add': {
      const part = recordingPart(song, edit.partId);
      if (part.takes.some(({ id }) => id === edit.take.id))
        throw new EditError('This take is in the part already.');
      checkTakes(part.takes.length + 1);
      const takes = [...part.takes];
      takes.splice(edit.index ?? takes.length, 0, edit.take);
      return {
        song: withPart(song, { ...part, takes }),
        inverse: { type: 'take.remove', partId: part.id, takeId: edit.take.id },
      };
    }
    case 'take.remove': {
      const { part, take } = findTake(song, edit);
      const used = part.passages.filter(({ takeId }) => takeId === take.id).length;
      if (used > 0)
        throw new EditError(
          `This take is used by ${used === 1 ? 'a passage' : `${used} passages`} of ${part.name}. Remove ${used === 1 ? 'it' : 'them'} first.`,
        );
      const takes = part.takes.filter((each) => each !== take);
      return {
        song: withPart(song, { ...part, takes }),
        inverse: { type: 'take.add', partId: part.id, take, index: part.takes.indexOf(take) },
      };
    }
    case 'take.name': {
      const { part, take } = findTake(song, edit);
      const { name: before, ...rest } = take;
      return {
        song: withTake(song, part, edit.name === null ? rest : { ...rest, name: edit.name }),
        inverse: { ...edit, name: before ?? null },
      };
    }
    case 'take.stretch': {
      const { part, take } = findTake(song, edit);
      const { stretch: before, ...rest } = take;
      return {
        song: withTake(song, part, edit.stretch ? { ...rest, stretch: edit.stretch } : rest),
        inverse: { ...edit, stretch: before ?? null },
      };
    }
    case 'take.chords': {
      const { part, take } = findTake(song, edit);
      const { chords: before, ...rest } = take;
      return {
        song: withTake(song, part, edit.chords ? { ...rest, chords: edit.chords } : rest),
        inverse: { ...edit, chords: before ?? null },
      };
    }
    case 'line.set': {
      const { part, take } = findTake(song, edit);
      return {
        song: withTake(song, part, { ...take, line: edit.line && sortedLine(edit.line) }),
        inverse: { type: 'line.set', partId: part.id, takeId: take.id, line: take.line },
      };
    }
    case 'line.tuning': {
      const { part, take, line } = findLine(song, edit);
      return {
        song: withTake(song, part, { ...take, line: { ...line, tuningCents: edit.tuningCents } }),
        inverse: { ...edit, tuningCents: line.tuningCents },
      };
    }
    case 'line.formants': {
      const { part, take, line } = findLine(song, edit);
      return {
        song: withTake(song, part, { ...take, line: { ...line, formantSemitones: edit.semitones } }),
        inverse: { ...edit, semitones: line.formantSemitones ?? 0 },
      };
    }
    case 'line.notes': {
      const { part, take, line } = findLine(song, edit);
      const { notes, undo } = changeNotes(line.notes, edit, byStartSeconds);
      checkNotes(notes.length);
      return {
        song: withTake(song, part, { ...take, line: { ...line, notes } }),
        inverse: { ...edit, ...undo },
      };
    }
    case 'passage.notes': {
      const { part, passage } = find(song, edit);
      if (passage.type !== 'notes')
        throw new EditError('A recording holds no notes of its own; edit its line.');
      const { notes, undo } = changeNotes(passage.notes, edit, byStartTicks);
      checkNotes(notes.length);
      return { song: withPassage(song, part, { ...passage, notes }), inverse: { ...edit, ...undo } };
    }
    case 'line.adjust':
      return adjustLine(song, edit);
    case 'passage.adjust':
      return adjustPassage(song, edit);
    case 'changes.put': {
      const { notes: changes, undo } = changeNotes(song.changes ?? [], edit, byStart);
      checkChords(changes.length);
      if (changes.some((change, i) => i > 0 && change.startTicks === changes[i - 1].startTicks))
        throw new EditError('Two chords cannot start at the same place.');
      return { song: { ...song, changes }, inverse: { ...edit, ...undo } };
    }
  }
}

/** Fields that a part need not have. */
const OPTIONAL_OF: Record<Part['kind'], readonly string[]> = {
  recording: ['group', 'seamSeconds'],
  notes: ['group'],
  drums: ['group'],
};

/** Fields of a passage that are set directly. */
export const FIELDS_OF: Record<Passage['type'], readonly string[]> = {
  recording: [
    'startTicks',
    'offsetSeconds',
    'durationSeconds',
    'clock',
    'gainDb',
    'fadeInSeconds',
    'fadeOutSeconds',
    'spare',
    'muted',
    'name',
    'colour',
    'key',
  ],
  notes: ['startTicks', 'lengthTicks', 'offsetTicks', 'take', 'spare', 'muted', 'name', 'colour', 'key'],
};
/** All notes, with those of `some` in place of their older selves. */
function adjusted<N>(all: readonly N[], some: readonly N[], change: (note: N) => N): N[] {
  if (some === all) return all.map(change);
  const changing = new Set(some);
  return all.map((note) => (changing.has(note) ? change(note) : note));
}

const negated = <T extends Record<string, number | undefined>>(add: T): T =>
  Object.fromEntries(Object.entries(add).map(([field, by]) => [field, by && -by])) as T;

function adjustLine(song: Song, edit: EditOf<'line.adjust'>): Applied {
  const { part, take, line } = findLine(song, edit);
  const before = namedNotes(line.notes, edit.which);
  const adjust = (note: LineNote) => adjustLineNote(note, edit, line.tuningCents);
  const notes = adjusted(line.notes, before, adjust).sort(byStartSeconds);
  const place = { partId: edit.partId, takeId: edit.takeId };
  return withInverse(withTake(song, part, { ...take, line: { ...line, notes } }), () => {
    const back = lineAdjustmentOf({ ...line, notes }, before);
    return back
      ? { type: 'line.adjust', ...place, ...back }
      : { type: 'line.notes', ...place, remove: [], put: [...before] };
  });
}

function adjustPassage(song: Song, edit: EditOf<'passage.adjust'>): Applied {
  const { part, passage } = find(song, edit);
  if (passage.type !== 'notes') throw new EditError('A recording holds no notes of its own; edit its line.');
  const before = namedNotes(passage.notes, edit.which);
  const notes = adjusted(passage.notes, before, (note) => adjustNote(note, edit)).sort(byStartTicks);
  const place = { partId: edit.partId, passageId: edit.passageId };
  return withInverse(withPassage(song, part, { ...passage, notes }), () => {
    // Whole numbers that were added are taken off again.
    if (Object.keys(edit.set).length === 0) return { ...edit, add: negated(edit.add) };
    const back = noteAdjustmentOf(notes, before);
    return back
      ? { type: 'passage.adjust', ...place, ...back }
      : { type: 'passage.notes', ...place, remove: [], put: [...before] };
  });
}

function sortedLine(line: Line): Line {
  return { ...line, notes: [...line.notes].sort(byStartSeconds) };
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

function recordingPart(song: Song, partId: string): RecordingPart {
  const part = song.parts[partIndex(song, partId)];
  if (part.kind !== 'recording') throw new EditError('Only a part with recordings has takes.');
  return part;
}

function findTake(song: Song, { partId, takeId }: { partId: string; takeId: string }) {
  const part = recordingPart(song, partId);
  const take = part.takes.find(({ id }) => id === takeId);
  if (!take) throw new EditError('This take is not in the part any more.');
  return { part, take };
}

function findLine(song: Song, at: { partId: string; takeId: string }) {
  const { part, take } = findTake(song, at);
  if (!take.line) throw new EditError('This recording has no line yet; read its melody first.');
  return { part, take, line: take.line };
}

function withPart(song: Song, part: Part): Song {
  return { ...song, parts: song.parts.map((each) => (each.id === part.id ? part : each)) };
}

function withPassageIn(part: Part, passage: Passage): Passage[] {
  return (part.passages as Passage[]).map((each) => (each.id === passage.id ? passage : each));
}

function withPassage(song: Song, part: Part, passage: Passage): Song {
  return withPart(song, { ...part, passages: withPassageIn(part, passage) } as Part);
}

function withTake(song: Song, part: RecordingPart, take: Take): Song {
  const takes = part.takes.map((each) => (each.id === take.id ? take : each));
  return withPart(song, { ...part, takes });
}

function pick<T extends object>(from: T, fields: string[]): Partial<T> {
  return Object.fromEntries(fields.map((field) => [field, from[field as keyof T]])) as Partial<T>;
}

/** Without fields that are undefined. */
function defined<T extends object>(patch: T): T {
  return Object.fromEntries(Object.entries(patch).filter(([, value]) => value !== undefined)) as T;
}

/** Without fields that are null: those that a passage need not have. */
function withoutNulls<T extends object>(passage: T): T {
  return Object.fromEntries(Object.entries(passage).filter(([, value]) => value !== null)) as T;
}
