import type { Knex } from 'knex';

/** The port that a service got whose file names none: it is there again after a restart. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('kept_ports', (table) => {
    table.text('service').primary();
    table.integer('port').notNullable();
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('kept_ports');
}
