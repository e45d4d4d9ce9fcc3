import type { Knex } from 'knex';

/** Files beside a service file are kept with each of its revisions. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('revisions', (table) => {
    table.json('files').notNullable().defaultTo('{}');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('revisions', (table) => {
    table.dropColumn('files');
  });
}
