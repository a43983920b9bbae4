import type { Knex } from 'knex';
import { historyAsRows } from './historyAsRows.ts';

/** In order of their names; one that has shipped is never changed. */
const all: Record<string, Knex.Migration> = {
  '001_songs_and_recordings': {
    async up(knex) {
      await knex.schema.createTable('songs', (table) => {
        table.text('id').primary();
        table.integer('revision').notNullable();
        table.text('summary').notNullable();
        /** SongState as JSON at `snapshot_revision`; later steps are replayed on it. */
        table.text('snapshot').notNullable();
        table.integer('snapshot_revision').notNullable();
        table.text('created_at').notNullable();
        table.text('updated_at').notNullable();
        table.text('deleted_at');
      });
      await knex.schema.createTable('steps', (table) => {
        table.text('song_id').notNullable().references('songs.id').onDelete('CASCADE');
        table.integer('revision').notNullable();
        table.text('request_id').notNullable();
        table.text('step').notNullable();
        table.text('created_at').notNullable();
        table.primary(['song_id', 'revision']);
        table.unique(['song_id', 'request_id']);
      });
      await knex.schema.createTable('recordings', (table) => {
        table.text('hash').primary();
        table.text('info').notNullable();
        table.text('created_at').notNullable();
      });
    },
    async down(knex) {
      await knex.schema.dropTable('steps');
      await knex.schema.dropTable('songs');
      await knex.schema.dropTable('recordings');
    },
  },
  /** What can be undone leaves the snapshot; snapshots leave the row of their song. */
  '002_history_as_rows': {
    async up(knex) {
      await knex.schema.createTable('snapshots', (table) => {
        table.text('song_id').notNullable().references('songs.id').onDelete('CASCADE');
        table.integer('revision').notNullable();
        /** The song as JSON; it carries its schema version. */
        table.text('song').notNullable();
        table.primary(['song_id', 'revision']);
      });
      await knex.schema.createTable('history', (table) => {
        table.text('song_id').notNullable().references('songs.id').onDelete('CASCADE');
        /** Ascending from what was done first. */
        table.integer('position').notNullable();
        table.text('id').notNullable();
        table.text('label').notNullable();
        /** 'done' or 'undone'; what is undone stands behind what is done. */
        table.text('state').notNullable();
        /** Version of the edits. */
        table.integer('version').notNullable();
        table.text('edit').notNullable();
        table.text('inverse').notNullable();
        table.integer('bytes').notNullable();
        table.primary(['song_id', 'position']);
      });
      await knex.schema.createTable('refusals', (table) => {
        table.text('song_id').notNullable().references('songs.id').onDelete('CASCADE');
        /** A request that was refused once stays refused, whenever it is repeated. */
        table.text('request_id').notNullable();
        table.text('reason').notNullable();
        table.primary(['song_id', 'request_id']);
      });
      await knex.schema.createTable('discarded', (table) => {
        /** A recording of a song that went for good; it goes when nothing uses it any more. */
        table.text('hash').primary();
      });
      await knex.schema.alterTable('steps', (table) => {
        /** From version 2 on a step says the edit that the song went through, also an undo. */
        table.integer('version').notNullable().defaultTo(1);
      });
      await historyAsRows(knex);
      await knex.raw('ALTER TABLE songs DROP COLUMN snapshot');
      await knex.raw('ALTER TABLE songs DROP COLUMN snapshot_revision');
    },
    down() {
      throw new Error('What can be undone cannot go back into snapshots; take the backup made before.');
    },
  },
  '003_shelf': {
    async up(knex) {
      await knex.schema.createTable('shelf_items', (table) => {
        table.text('id').primary();
        /** ShelfItem as JSON, without its notes. */
        table.text('item').notNullable();
        /** Those of a phrase, as JSON. */
        table.text('notes');
        table.text('created_at').notNullable();
        table.text('deleted_at');
      });
    },
    async down(knex) {
      await knex.schema.dropTable('shelf_items');
    },
  },
};

export const migrationNames = Object.keys(all).sort();

export const migrations: Knex.MigrationSource<string> = {
  getMigrations: () => Promise.resolve(migrationNames),
  getMigrationName: (name) => name,
  getMigration: (name) => Promise.resolve(all[name]),
};
