import type { Knex } from 'knex';

/** Trials with their steps; as text, since a body may hold what jsonb refuses. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('trials', (table) => {
    table.text('id').primary();
    table.text('service').notNullable();
    table.text('environment').notNullable();
    table.text('against').notNullable();
    table.text('state').notNullable();
    table.text('trouble');
    table.timestamp('started_at', { useTz: true }).notNullable();
    table.timestamp('ended_at', { useTz: true });
    table.json('counts').notNullable();
    table.json('changes');
    table.json('steps').notNullable();
    table.index(['service', 'environment', 'started_at']);
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('trials');
}
