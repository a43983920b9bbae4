/**
 * Stored songs outlive releases: what any release has stored is brought up to what this one understands. Songs carry
 * their `schemaVersion`; a stored edit has its version beside it. A version is added here with the release that changes
 * how songs or edits look, and none is ever taken away.
 *
 * Edits, version 1: `passage.set` could name fields that the passage does not have.
 * Edits, version 2: it cannot; notes are moved together by `passage.adjust` and `line.adjust`, time by `time.insert`
 * and `time.remove`.
 *
 * Songs, version 2, and edits, version 3: keys are places on the circle of fifths, and bends belong to notes; see
 * oldShapes.ts.
 *
 * Songs, version 3, and edits, version 4: recordings and what was read of them are takes, passages are windows on them;
 * `time.insert` and `time.remove` can cut recordings.
 */
import { bendNotes, type ChannelBend } from './bends.ts';
import { applyEdit, FIELDS_OF } from './edit.ts';
import { editSchema, type Edit, type SimpleEdit } from './editSchema.ts';
import {
  editWithTakes,
  fromOldShape as withoutBends,
  storedBends,
  upgradeKey,
  upgradePart,
  withTakes,
} from './oldShapes.ts';
import { SONG_SCHEMA_VERSION, songSchema, type Note, type Passage, type Song } from './schema.ts';

export { upgradeKey };

export const EDIT_VERSION = 4;

/** An edit of which neither the version nor the song is known: what a browser has kept. */
export const fromOldShape = (stored: unknown): unknown => editWithTakes(withoutBends(stored), () => false);

/** Stored data that cannot be read. The message is a sentence for the user. */
export class SongFormatError extends Error {
  override name = 'SongFormatError';
}

/** A stored song of any release as one of this. Throws {@link SongFormatError}. */
export function upgradeSong(stored: unknown): Song {
  const version = (stored as { schemaVersion?: unknown } | null)?.schemaVersion;
  if (typeof version === 'number' && version > SONG_SCHEMA_VERSION) throw newerRelease();
  let data = stored;
  if (version === 1) data = fromVersion1(data as Data);
  if (version === 1 || version === 2) data = fromVersion2(data as Data);
  const result = songSchema.safeParse(data);
  if (result.success) return result.data;
  const { path } = result.error.issues[0];
  throw new SongFormatError(
    `Something in its data is not as it should be (${path.length > 0 ? `at ${path.join(' ')}` : 'all of it'}).`,
  );
}

type Data = Record<string, unknown>;

function fromVersion1(stored: Data): Data {
  return {
    ...stored,
    key: upgradeKey(stored.key),
    ...(Array.isArray(stored.parts) && { parts: stored.parts.map(upgradePart) }),
  };
}

function fromVersion2(stored: Data): Data {
  return {
    ...stored,
    schemaVersion: 3,
    ...(Array.isArray(stored.parts) && { parts: stored.parts.map(withTakes) }),
  };
}

/** Whether a part holds recordings: in the song, or as the edit itself brings it. */
function recordingPartsOf(song: Song, stored: unknown): (partId: unknown) => boolean {
  const kinds = new Map<unknown, unknown>(song.parts.map(({ id, kind }) => [id, kind]));
  const { edits } = stored as { edits?: unknown };
  for (const each of Array.isArray(edits) ? (edits as { type?: unknown; part?: Data }[]) : [])
    if (each?.type === 'part.add') kinds.set(each.part?.id, each.part?.kind);
  return (partId) => kinds.get(partId) === 'recording';
}

/** A stored edit of any release as one of this; `song`: the one it was made on. Throws {@link SongFormatError}. */
export function upgradeEdit(stored: unknown, version: number, song: Song): Edit {
  if (version > EDIT_VERSION) throw newerRelease();
  let data = stored;
  if (version < 3) data = withoutBends(data);
  if (version < 4) data = editWithTakes(data, recordingPartsOf(song, data));
  const result = editSchema.safeParse(data);
  if (!result.success) throw new SongFormatError('A step in the history of this song cannot be read.');
  let edit = result.data;
  if (version < 2) edit = withoutAlienFields(edit, song);
  return version < 3 ? withBendsOfNotes(edit, stored, song) : edit;
}

function newerRelease(): SongFormatError {
  return new SongFormatError(
    'This song was saved by a newer version of Plundra. Bring this copy of Plundra up to date and open it again.',
  );
}

function withoutAlienFields(edit: Edit, song: Song): Edit {
  const types = new Map<string, Passage['type']>();
  const learn = (partId: string, passages: readonly Passage[]) =>
    passages.forEach(({ id, type }) => types.set(`${partId}/${id}`, type));
  for (const { id, passages } of song.parts) learn(id, passages);
  const clean = (each: SimpleEdit): SimpleEdit => {
    if (each.type === 'part.add') learn(each.part.id, each.part.passages);
    if (each.type === 'passage.add') learn(each.partId, [each.passage]);
    const type = each.type === 'passage.set' && types.get(`${each.partId}/${each.passageId}`);
    if (each.type !== 'passage.set' || !type) return each;
    const patch = Object.fromEntries(
      Object.entries(each.patch).filter(([field]) => FIELDS_OF[type].includes(field)),
    );
    return { ...each, patch };
  };
  return edit.type === 'batch' ? { ...edit, edits: edit.edits.map(clean) } : clean(edit);
}

/**
 * Notes that an old edit put keep the bends they have, for it said nothing about them; and what it set as the bends of a
 * passage goes to the notes as the edit leaves them.
 */
function withBendsOfNotes(edit: Edit, stored: unknown, song: Song): Edit {
  const bent = new Map<string, Note>();
  const learn = (passages: readonly Passage[]) => {
    for (const passage of passages)
      if (passage.type === 'notes') for (const note of passage.notes) if (note.bends) bent.set(note.id, note);
  };
  const putsNotes = ({ type }: SimpleEdit) => type === 'passage.notes';
  if (edit.type === 'batch' ? edit.edits.some(putsNotes) : putsNotes(edit))
    for (const { passages } of song.parts) learn(passages);
  const keep = (each: SimpleEdit): SimpleEdit => {
    if (each.type === 'part.add') learn(each.part.passages);
    if (each.type === 'passage.add') learn([each.passage]);
    if (each.type !== 'passage.notes' || bent.size === 0) return each;
    const put = each.put.map((note) => {
      const bends = note.bends ?? bent.get(note.id)?.bends;
      return bends ? { ...note, bends } : note;
    });
    return { ...each, put };
  };
  const kept: Edit = edit.type === 'batch' ? { ...edit, edits: edit.edits.map(keep) } : keep(edit);
  const set = bendsSetBy(stored);
  if (set.length === 0) return kept;
  const edits = kept.type === 'batch' ? kept.edits : [kept];
  const { song: after } = applyEdit(song, kept);
  return {
    type: 'batch',
    edits: [
      ...edits,
      ...set.flatMap(({ partId, passageId, bends }): SimpleEdit[] => {
        const passage = after.parts
          .find(({ id }) => id === partId)
          ?.passages.find((each: Passage) => each.id === passageId);
        if (passage?.type !== 'notes' || passage.notes.length === 0) return [];
        return [
          { type: 'passage.notes', partId, passageId, remove: [], put: bendNotes(passage.notes, bends) },
        ];
      }),
    ],
  };
}

interface SetBends {
  partId: string;
  passageId: string;
  bends: ChannelBend[];
}

function bendsSetBy(stored: unknown): SetBends[] {
  const edit = stored as { type?: string; edits?: unknown[]; patch?: unknown } & SetBends;
  if (edit.type === 'batch') return (edit.edits ?? []).flatMap(bendsSetBy);
  const bends = edit.type === 'passage.set' ? storedBends(edit.patch) : undefined;
  return bends ? [{ partId: edit.partId, passageId: edit.passageId, bends }] : [];
}
