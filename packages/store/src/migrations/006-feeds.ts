import type { Knex } from 'knex';

/** Feeds with their latest runs. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('feeds', (table) => {
    table.text('name').primary();
    table.json('feed').notNullable();
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('feeds');
}
