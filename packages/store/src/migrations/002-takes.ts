import type { Knex } from 'knex';

/** Takes with their exchanges. Exchanges are kept as they were heard, masked; as text, since a body may hold what jsonb refuses. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('takes', (table) => {
    table.text('name').primary();
    table.text('source').notNullable();
    table.text('upstream');
    table.text('state').notNullable();
    table.timestamp('started_at', { useTz: true }).notNullable();
    table.timestamp('ended_at', { useTz: true });
    table.text('trouble');
    table.json('masked').notNullable();
  });
  await knex.schema.createTable('exchanges', (table) => {
    table.text('take').notNullable().references('name').inTable('takes').onDelete('CASCADE');
    table.integer('index').notNullable();
    table.json('exchange').notNullable();
    table.primary(['take', 'index']);
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('exchanges');
  await knex.schema.dropTable('takes');
}
