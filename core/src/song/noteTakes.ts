/** Takes of notes that were played in: put into a part, their boundaries, what is missing in them, printed as one. Pure. */
import type { Midi, Ticks } from '../signal/index.ts';
import { EditError, type Edit, type SimpleEdit } from './editSchema.ts';
import { notesOriginTicks, placedNote, shownNotes, soundingNotesOf } from './placed.ts';
import type { Note, NotePassage, Passage, Song } from './schema.ts';
import { noteTakeNames, takeTableOf, type Phrase } from './takeTable.ts';
import { cutTake, edgesWithin, setAside, walk } from './takeWalk.ts';

/**
 * Puts notes that were played into a note part as takes of one stretch: the last is heard, all others and what the part had there
 * stand beside it.
 * @param takes the notes of each, in ticks of the song
 */
export function planAddNoteTakes(
  song: Song,
  partId: string,
  takes: readonly (readonly Note[])[],
  { startTicks, endTicks }: Pick<Phrase, 'startTicks' | 'endTicks'>,
  createId: () => string,
): Edit {
  const { add, edits, partNow, time } = walk(song, partId);
  const table = takeTableOf(partNow(), time);
  setAside(partNow, startTicks, endTicks, add, time, createId);
  const part = partNow();
  if (part.kind === 'recording') throw new EditError('Notes and recordings cannot share a part.');
  const names = noteTakeNames(part, takes.length);
  for (const [i, notes] of takes.entries()) {
    const passage: NotePassage = {
      type: 'notes',
      id: createId(),
      startTicks,
      lengthTicks: endTicks - startTicks,
      // A window from the start on, so that what rings over its end stays within it.
      offsetTicks: 0,
      take: names[i],
      notes: notes.map((note) => ({ ...note, startTicks: note.startTicks - startTicks })),
      ...(i < takes.length - 1 && { spare: true as const }),
    };
    add({ type: 'passage.add', partId, passage });
    for (const at of edgesWithin(table?.phrases ?? [], startTicks, endTicks))
      cutTake(partNow, names[i], at, add, time, createId);
  }
  return { type: 'batch', edits };
}

/** Notes belong to their passage: those between the old boundary and the new one go over to the other. */
export function noteBoundaryEdits(
  partId: string,
  first: NotePassage,
  second: NotePassage,
  toTicks: Ticks,
): SimpleEdit[] {
  const by = toTicks - second.startTicks;
  const [from, to] = by < 0 ? [first, second] : [second, first];
  const goes = (atTicks: Ticks) => (by < 0 ? atTicks >= toTicks : atTicks < toTicks);
  const going = shownNotes(from).filter((note) => goes(notesOriginTicks(from) + note.startTicks));
  // The second counts from no later than where it begins: its notes then have so much more before them.
  const more = Math.max(0, notesOriginTicks(second) - toTicks);
  const apart = notesOriginTicks(from) - notesOriginTicks(to);
  const place = (passage: NotePassage) => ({ partId, passageId: passage.id });
  const put = [
    ...(more > 0 ? second.notes.map((note) => ({ ...note, startTicks: note.startTicks + more })) : []),
    ...going.map((note) => ({ ...note, startTicks: note.startTicks + apart + more })),
  ];
  const edits: SimpleEdit[] = [];
  if (going.length > 0)
    edits.push({ type: 'passage.notes', ...place(from), remove: going.map(({ id }) => id), put: [] });
  if (put.length > 0) edits.push({ type: 'passage.notes', ...place(to), remove: [], put });
  edits.push(
    {
      type: 'passage.set',
      ...place(first),
      patch: { lengthTicks: toTicks - first.startTicks, offsetTicks: first.offsetTicks ?? 0 },
    },
    {
      type: 'passage.set',
      ...place(second),
      patch: {
        startTicks: toTicks,
        offsetTicks: (second.offsetTicks ?? 0) + by + more,
        lengthTicks: second.lengthTicks - by,
      },
    },
  );
  return edits;
}

/** What is heard of a note part as one passage, in a part of its own that takes its place. */
export function planPrintNotes(
  song: Song,
  partId: string,
  name: string,
  createId: () => string,
): Edit | undefined {
  const index = song.parts.findIndex(({ id }) => id === partId);
  const part = song.parts.at(index);
  if (index < 0 || !part || part.kind === 'recording') return undefined;
  const notes = soundingNotesOf(part).sort((a, b) => a.startTicks - b.startTicks);
  if (notes.length === 0) return undefined;
  const startTicks = notes[0].startTicks;
  const end = Math.max(...notes.map((note) => note.startTicks + note.lengthTicks));
  const passage: NotePassage = {
    type: 'notes',
    id: createId(),
    startTicks,
    lengthTicks: end - startTicks,
    notes: notes.map((note) => ({ ...note, id: createId(), startTicks: note.startTicks - startTicks })),
  };
  return {
    type: 'batch',
    edits: [
      { type: 'part.add', part: { ...part, id: createId(), name, passages: [passage] }, index: index + 1 },
      { type: 'part.set', partId, patch: { mute: true } },
    ],
  };
}

/** Notes of takes that lie nearer than this are one note, played again: an eighth. */
const SAME_NOTE_TICKS = 480;

/**
 * How many notes each take of a phrase leaves out that more than half of its takes play. Of two takes nobody can say which is
 * right: none are missing.
 * @param cells what each take has there, by its id
 */
export function missedNotes(cells: ReadonlyMap<string, readonly Passage[]>): Map<string, number> {
  const byPitch = new Map<Midi, { takeId: string; startTicks: Ticks }[]>();
  for (const [takeId, passages] of cells)
    for (const passage of passages) {
      if (passage.type !== 'notes') continue;
      for (const note of shownNotes(passage)) {
        if (note.muted) continue;
        const { startTicks } = placedNote(passage, note);
        byPitch.set(note.midi, [...(byPitch.get(note.midi) ?? []), { takeId, startTicks }]);
      }
    }
  const missed = new Map([...cells.keys()].map((id) => [id, 0]));
  for (const played of byPitch.values())
    for (const together of playedTogether(played)) {
      if (2 * together.size <= cells.size) continue;
      for (const [id, count] of missed) if (!together.has(id)) missed.set(id, count + 1);
    }
  return missed;
}

/** Notes of one pitch: which takes play each of them. A take plays each but once. */
function playedTogether(played: readonly { takeId: string; startTicks: Ticks }[]): Set<string>[] {
  const groups: { fromTicks: Ticks; takes: Set<string> }[] = [];
  for (const { takeId, startTicks } of [...played].sort((a, b) => a.startTicks - b.startTicks)) {
    const group = groups.findLast(
      ({ fromTicks, takes }) => startTicks - fromTicks < SAME_NOTE_TICKS && !takes.has(takeId),
    );
    if (group) group.takes.add(takeId);
    else groups.push({ fromTicks: startTicks, takes: new Set([takeId]) });
  }
  return groups.map(({ takes }) => takes);
}

/** Shorter phrases are not found, nor shorter rests heard as their ends: a bar of 4/4, and an eighth. */
const SHORTEST_PHRASE_TICKS = 3840;
const SHORTEST_REST_TICKS = 480;
const BEFORE_NEXT_TICKS = 120;

/** Where all takes of a phrase rest together: just before they go on, so that what comes early belongs behind. */
export function restsOf({ startTicks, endTicks, cells }: Phrase): Ticks[] {
  const spans = [...cells.values()]
    .flat()
    .flatMap((passage) =>
      passage.type === 'notes'
        ? shownNotes(passage)
            .filter(({ muted }) => !muted)
            .map((note) => placedNote(passage, note))
        : [],
    )
    .sort((a, b) => a.startTicks - b.startTicks);
  const rests: Ticks[] = [];
  let [sounds, last] = [startTicks, startTicks];
  for (const note of spans) {
    const at = note.startTicks - BEFORE_NEXT_TICKS;
    if (
      note.startTicks - sounds >= SHORTEST_REST_TICKS &&
      at - last >= SHORTEST_PHRASE_TICKS &&
      endTicks - at >= SHORTEST_PHRASE_TICKS
    ) {
      rests.push(at);
      last = at;
    }
    sounds = Math.max(sounds, note.startTicks + note.lengthTicks);
  }
  return rests;
}
