/** Takes and the windows on them: what must hold between them, and copying. */
import { EditError, type EditOf, type SimpleEdit } from './editSchema.ts';
import type { Part, Passage, RecordingPassage, Song, Take } from './schema.ts';

/** Windows that meet may overlap by as much as their sums are rounded. */
const ROUNDING_SECONDS = 1e-6;

/** Whether two windows show the same moment of one take. */
export function overlaps(a: RecordingPassage, b: RecordingPassage): boolean {
  return (
    a.takeId === b.takeId &&
    a.offsetSeconds + a.durationSeconds > b.offsetSeconds + ROUNDING_SECONDS &&
    b.offsetSeconds + b.durationSeconds > a.offsetSeconds + ROUNDING_SECONDS
  );
}

/** A passage shows a take of its part, and no moment of it that another passage shows. */
export function checkWindow(part: Part, passage: Passage): void {
  if (part.kind !== 'recording' || passage.type !== 'recording') return;
  if (!part.takes.some(({ id }) => id === passage.takeId))
    throw new EditError('The take of this passage is not in the part any more.');
  if (part.passages.some((other) => other.id !== passage.id && overlaps(other, passage)))
    throw new EditError(
      'Another passage of this part already holds this piece of the recording. Duplicate the passage to hear it twice.',
    );
}

/** The same of a whole part; passages and takes are known by their ids. */
export function checkWindows(part: Part): void {
  const twice = (list: readonly { id: string }[]) => new Set(list.map(({ id }) => id)).size !== list.length;
  if (twice(part.passages))
    throw new EditError('Two passages of this part have the same name, so it was not added.');
  if (part.kind !== 'recording') return;
  if (twice(part.takes))
    throw new EditError('Two takes of this part have the same name, so it was not added.');
  const takes = new Set(part.takes.map(({ id }) => id));
  if (part.passages.some(({ takeId }) => !takes.has(takeId)))
    throw new EditError('A passage of this part has no take, so it was not added.');
  const inOrder = part.passages.toSorted(
    (a, b) => compare(a.takeId, b.takeId) || a.offsetSeconds - b.offsetSeconds,
  );
  if (inOrder.some((passage, i) => i > 0 && overlaps(inOrder[i - 1], passage)))
    throw new EditError('Two passages of this part hold the same piece of a recording, so it was not added.');
}

const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);

const LONGEST_ID = 64;
/** Names of the notes of a copy, as short as they must be: no two notes of a part have the same. */
const noteId = (copyId: string, index: number) => {
  const end = `.${index}`;
  return `${copyId.slice(0, LONGEST_ID - end.length)}${end}`;
};

/**
 * What copying does, edit by edit. The notes of the copy have names of their own, made from the name of the copy, so that
 * whoever takes this step makes the same.
 */
export function copyEdits(
  song: Song,
  { partId, passageId, toId, startTicks }: EditOf<'passage.copy'>,
): SimpleEdit[] {
  const part = song.parts.find(({ id }) => id === partId);
  const passage = (part?.passages as Passage[] | undefined)?.find(({ id }) => id === passageId);
  if (!part || !passage) throw new EditError('This passage is not in the part any more.');
  const notesAs = <N extends { id: string }>(notes: readonly N[]) =>
    notes.map((note, i) => ({ ...note, id: noteId(toId, i) }));
  if (passage.type === 'notes')
    return [
      {
        type: 'passage.add',
        partId,
        passage: { ...passage, id: toId, startTicks, notes: notesAs(passage.notes) },
      },
    ];
  const take = part.kind === 'recording' && part.takes.find(({ id }) => id === passage.takeId);
  if (!take) throw new EditError('The take of this passage is not in the part any more.');
  const copy: Take = {
    ...take,
    id: toId,
    line: take.line && { ...take.line, notes: notesAs(take.line.notes) },
  };
  return [
    { type: 'take.add', partId, take: copy },
    { type: 'passage.add', partId, passage: { ...passage, id: toId, takeId: toId, startTicks } },
  ];
}

/** What a part holds whose one passage shows the whole of a recording. */
export function wholeRecording(
  recording: { hash: string; durationSeconds: number },
  startTicks: number,
  createId: () => string,
): { takes: [Take]; passages: [RecordingPassage] } {
  const takeId = createId();
  return {
    takes: [{ id: takeId, recordingHash: recording.hash, line: null }],
    passages: [
      {
        type: 'recording',
        id: createId(),
        takeId,
        startTicks,
        offsetSeconds: 0,
        durationSeconds: recording.durationSeconds,
      },
    ],
  };
}
