/**
 * Stored songs outlive releases: what any release has stored is brought up to what this one understands. Songs carry
 * their `schemaVersion`; a stored edit has its version beside it. A version is added here with the release that changes
 * how songs or edits look, and none is ever taken away.
 *
 * Edits, version 1: `passage.set` could name fields that the passage does not have.
 * Edits, version 2: it cannot; notes are moved together by `passage.adjust` and `line.adjust`, time by `time.insert`
 * and `time.remove`.
 */
import { FIELDS_OF } from './edit.ts';
import { editSchema, type Edit, type SimpleEdit } from './editSchema.ts';
import { SONG_SCHEMA_VERSION, songSchema, type Passage, type Song } from './schema.ts';

export const EDIT_VERSION = 2;

/** Stored data that cannot be read. The message is a sentence for the user. */
export class SongFormatError extends Error {
  override name = 'SongFormatError';
}

/** A stored song of any release as one of this. Throws {@link SongFormatError}. */
export function upgradeSong(stored: unknown): Song {
  const version = (stored as { schemaVersion?: unknown } | null)?.schemaVersion;
  if (typeof version === 'number' && version > SONG_SCHEMA_VERSION) throw newerRelease();
  const result = songSchema.safeParse(stored);
  if (result.success) return result.data;
  const { path } = result.error.issues[0];
  throw new SongFormatError(
    `Something in its data is not as it should be (${path.length > 0 ? `at ${path.join(' ')}` : 'all of it'}).`,
  );
}

/** A stored edit of any release as one of this; `song`: the one it was made on. Throws {@link SongFormatError}. */
export function upgradeEdit(stored: unknown, version: number, song: Song): Edit {
  if (version > EDIT_VERSION) throw newerRelease();
  const result = editSchema.safeParse(stored);
  if (!result.success) throw new SongFormatError('A step in the history of this song cannot be read.');
  return version < 2 ? withoutAlienFields(result.data, song) : result.data;
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
