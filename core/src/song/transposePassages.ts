/** Passages moved by semitones, and nothing else of their part. Pure, as arrange.ts. */
import { placeOf, type Found, type PassagePlace } from './arrange.ts';
import { EditError, type Edit, type SimpleEdit } from './editSchema.ts';
import { melodyLineOf } from './lineNotes.ts';
import { ownsNote } from './placed.ts';
import { copyEdits } from './takes.ts';
import {
  inMidiRange,
  passageKeyEdits,
  transposedLineNote,
  transposedOwnChords,
  transposedStretch,
} from './transpose.ts';
import type { Material, Part, Passage, RecordingPart, RecordingPassage, Song, Take } from './schema.ts';

/** A transposition, and where its passages are afterwards. */
export interface Transposition {
  edit: Edit;
  places: PassagePlace[];
}

/** Whether a passage has anything that can be higher or lower: drums have not. */
export function canTranspose({ part, passage }: Found): boolean {
  if (part.kind === 'drums' || (part.kind === 'recording' && part.material === 'drums')) return false;
  if (passage.type === 'notes') return passage.notes.length > 0;
  const take = takeOf(part, passage);
  return take !== undefined && take.line?.reads !== 'hits';
}

const takeOf = (part: Part, { takeId }: RecordingPassage): Take | undefined =>
  part.kind === 'recording' ? part.takes.find(({ id }) => id === takeId) : undefined;

/**
 * Notes move; so do the notes of a line that lie in the passage. A recording without a line sounds higher or lower as a
 * whole, so a passage that shares its take with others gets a copy of it first. Its own chords move along.
 *
 * Throws {@link EditError} where only drums are meant; undefined where nothing moves.
 */
export function planTransposePassages(
  song: Song,
  found: readonly Found[],
  semitones: number,
  createId: () => string,
): Transposition | undefined {
  if (found.length === 0 || semitones === 0) return undefined;
  const edits: SimpleEdit[] = [];
  const places: PassagePlace[] = [];
  const moved = new Set<Take>();
  const chosen = new Set<Passage>(found.map(({ passage }) => passage));
  for (const each of found) {
    const { part, passage } = each;
    const place: PassagePlace = placeOf(each);
    places.push(place);
    if (!canTranspose(each)) continue;
    if (passage.type === 'notes') {
      const put = passage.notes.map((note) => ({ ...note, midi: inMidiRange(note.midi + semitones) }));
      edits.push({ type: 'passage.notes', ...place, remove: [], put });
      edits.push(...passageKeyEdits(part.id, passage, semitones));
      continue;
    }
    const take = takeOf(part, passage)!;
    const { material, passages } = part as RecordingPart;
    if (melodyLineOf(take)) edits.push(...lineEdits(place.partId, passage, take, semitones));
    else if (passages.every((other) => other.takeId !== take.id || chosen.has(other))) {
      // Once for all of its passages.
      if (!moved.has(take)) edits.push(...takeEdits(place.partId, take, take.id, material, semitones));
      moved.add(take);
    } else {
      const toId = createId();
      const { startTicks } = passage;
      edits.push(...copyEdits(song, { type: 'passage.copy', ...place, toId, startTicks }));
      edits.push({ type: 'passage.remove', ...place });
      edits.push(...takeEdits(place.partId, take, toId, material, semitones));
      places[places.length - 1] = { ...place, passageId: toId };
    }
    edits.push(...passageKeyEdits(part.id, { id: places.at(-1)!.passageId, key: passage.key }, semitones));
  }
  if (edits.length === 0)
    throw new EditError(
      'Drums have no key, and an empty passage no notes: there is nothing to transpose here.',
    );
  return { edit: { type: 'batch', edits }, places };
}

/** The notes of a line that begin in the passage; other passages of the take stay as they are. */
function lineEdits(partId: string, passage: RecordingPassage, take: Take, semitones: number): SimpleEdit[] {
  const place = { partId, takeId: take.id };
  const line = take.line!;
  const put = line.notes
    .filter((note) => ownsNote(passage, note))
    .map((note) => transposedLineNote(note, line.tuningCents, semitones));
  return put.length > 0 ? [{ type: 'line.notes', ...place, remove: [], put }] : [];
}

function takeEdits(
  partId: string,
  take: Take,
  takeId: string,
  material: Material,
  semitones: number,
): SimpleEdit[] {
  const place = { partId, takeId };
  return [
    { type: 'take.stretch', ...place, stretch: transposedStretch(take, material, semitones) },
    ...(take.chords
      ? [
          {
            type: 'take.chords' as const,
            ...place,
            chords: transposedOwnChords(take.chords, semitones, null),
          },
        ]
      : []),
  ];
}
