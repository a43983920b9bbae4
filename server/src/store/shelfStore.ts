/** Items of the shelf as rows. What is taken off can be put back for a while. */
import type { Knex } from 'knex';
import { phraseNotesSchema, shelfItemSchema, type ShelfItem } from '@plundra/core/shelf';
import type { Note } from '@plundra/core/song';
import { Problem } from './problem.ts';

export interface ShelfStore {
  /** The newest first. */
  list(): Promise<ShelfItem[]>;
  /** Also one that was taken off, by name. */
  has(id: string): Promise<boolean>;
  find(id: string): Promise<ShelfItem>;
  notes(id: string): Promise<Note[]>;
  insert(item: ShelfItem, notes?: readonly Note[]): Promise<void>;
  /** Changes an item as it stands now, and returns what it is then. */
  change(id: string, change: (item: ShelfItem) => ShelfItem): Promise<ShelfItem>;
  takeOff(id: string): Promise<void>;
  putBack(id: string): Promise<void>;
  /** Every recording that an item uses, also one that was taken off. */
  recordings(): Promise<Set<string>>;
  /** Removes for good what was taken off before a time, and gives the recordings it used. */
  purge(before: string): Promise<string[]>;
}

interface Row {
  id: string;
  item: string;
  notes: string | null;
}

export function createShelfStore(database: Knex): ShelfStore {
  const rows = () => database<Row & { created_at: string; deleted_at: string | null }>('shelf_items');
  const itemOf = ({ item }: Pick<Row, 'item'>) => shelfItemSchema.parse(JSON.parse(item));
  const row = async (id: string) => {
    const found = await rows().where({ id, deleted_at: null }).first();
    if (!found) throw notFound();
    return found;
  };
  const recordingOf = ({ sound }: ShelfItem) => (sound.type === 'recording' ? [sound.recordingHash] : []);
  return {
    async list() {
      return (await rows().where({ deleted_at: null }).orderBy('created_at', 'desc').select('item')).map(
        itemOf,
      );
    },
    has: async (id) => (await rows().where({ id }).first('id')) !== undefined,
    find: async (id) => itemOf(await row(id)),
    async notes(id) {
      const { notes } = await row(id);
      if (notes === null) throw notFound();
      return phraseNotesSchema.parse(JSON.parse(notes));
    },
    async insert(item, notes) {
      await rows().insert({
        id: item.id,
        item: JSON.stringify(item),
        notes: notes ? JSON.stringify(notes) : null,
        created_at: item.createdAt,
      });
    },
    change: (id, change) =>
      database.transaction(async (transaction) => {
        const found = await transaction<Row>('shelf_items')
          .where({ id, deleted_at: null } as object)
          .first();
        if (!found) throw notFound();
        const item = shelfItemSchema.parse(change(itemOf(found)));
        await transaction('shelf_items')
          .where({ id })
          .update({ item: JSON.stringify(item) });
        return item;
      }),
    async takeOff(id) {
      await row(id);
      await rows().where({ id }).update({ deleted_at: new Date().toISOString() });
    },
    async putBack(id) {
      if ((await rows().where({ id }).update({ deleted_at: null })) === 0) throw notFound();
    },
    async recordings() {
      return new Set((await rows().select('item')).flatMap((each) => recordingOf(itemOf(each))));
    },
    async purge(before) {
      // What came with the application stays away once it was taken off: its row says so.
      const gone = (await rows().where('deleted_at', '<', before).select('item'))
        .map(itemOf)
        .filter(({ shipped }) => !shipped);
      for (const { id } of gone) await rows().where({ id }).delete();
      return gone.flatMap(recordingOf);
    },
  };
}

function notFound(): Problem {
  return new Problem(404, 'item_not_found', 'This is not on the shelf any more. Put it there again.');
}
