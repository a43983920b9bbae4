import type { Knex } from 'knex';

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
};

export const migrations: Knex.MigrationSource<string> = {
  getMigrations: () => Promise.resolve(Object.keys(all).sort()),
  getMigrationName: (name) => name,
  getMigration: (name) => Promise.resolve(all[name]),
};
