/** What can be undone and redone, as rows. */
import type { Knex } from 'knex';
import type { HistoryEntry } from '@plundra/contract';
import {
  EDIT_VERSION,
  HISTORY_LIMIT,
  upgradeEdit,
  type History,
  type HistoryItem,
  type Reversible,
  type Song,
  type Step,
} from '@plundra/core/song';

interface HistoryRow extends HistoryItem {
  position: number;
  state: 'done' | 'undone';
  version: number;
  edit: string;
  inverse: string;
}

/** Entries of a song take no more than this on the disk; a few of the newest are kept whatever they take. */
const MAX_BYTES = 64 * 1024 * 1024;
const MIN_ENTRIES = 10;

export async function readHistory(database: Knex, songId: string): Promise<History> {
  const rows = (await database('history')
    .where('song_id', songId)
    .orderBy('position')
    .select('id', 'label', 'state')) as Pick<HistoryRow, 'id' | 'label' | 'state'>[];
  const of = (state: HistoryRow['state']) =>
    rows.filter((row) => row.state === state).map(({ id, label }) => ({ id, label }));
  // What comes next in line stands last.
  return { done: of('done'), undone: of('undone').reverse() };
}

/** An entry by its id, as `song` would take it. */
export async function findEntry(
  database: Knex,
  song: Song,
  entryId: string,
): Promise<HistoryEntry | undefined> {
  const row = (await database('history')
    .where({ song_id: song.id, id: entryId })
    .orderBy('position', 'desc')
    .first()) as HistoryRow | undefined;
  return (
    row && {
      id: row.id,
      label: row.label,
      edit: upgradeEdit(JSON.parse(row.edit), row.version, song),
      inverse: upgradeEdit(JSON.parse(row.inverse), row.version, song),
    }
  );
}

/** Writes down a step that was taken. */
export async function writeHistory(
  database: Knex,
  songId: string,
  step: Step,
  { edit, inverse }: Reversible,
): Promise<void> {
  const rows = () => database('history').where('song_id', songId);
  const newestDone = async () =>
    ((await rows().where('state', 'done').max('position as position').first()) as { position: number | null })
      .position;
  if (step.kind === 'do') {
    await rows().where('state', 'undone').delete();
    const position = ((await newestDone()) ?? -1) + 1;
    const texts = { edit: JSON.stringify(edit), inverse: JSON.stringify(inverse) };
    await database('history').insert({
      song_id: songId,
      position,
      id: step.id,
      label: step.label,
      state: 'done',
      version: EDIT_VERSION,
      ...texts,
      bytes: texts.edit.length + texts.inverse.length,
    });
    await forget(database, songId, position);
    return;
  }
  if (step.kind === 'undo') {
    await rows()
      .where('position', (await newestDone()) ?? -1)
      .update({ state: 'undone' });
    return;
  }
  await rows()
    .where('position', ((await newestDone()) ?? -1) + 1)
    .update({ state: 'done', inverse: JSON.stringify(inverse), version: EDIT_VERSION });
}

/** The oldest entries go: beyond so many, and so many bytes. */
async function forget(database: Knex, songId: string, newest: number): Promise<void> {
  const rows = (await database('history')
    .where('song_id', songId)
    .orderBy('position', 'desc')
    .select('position', 'bytes')) as { position: number; bytes: number }[];
  let bytes = 0;
  const oldest = rows.findIndex((row, i) => {
    bytes += row.bytes;
    return i >= HISTORY_LIMIT || (i >= MIN_ENTRIES && bytes > MAX_BYTES);
  });
  if (oldest < 0) return;
  await database('history')
    .where('song_id', songId)
    .where('position', '<=', newest - oldest)
    .delete();
}
