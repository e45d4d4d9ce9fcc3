import type { Knex } from 'knex';

/** What became of each host's calls at a proxy. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('takes', (table) => {
    table.json('hosts').notNullable().defaultTo('[]');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('takes', (table) => {
    table.dropColumn('hosts');
  });
}
