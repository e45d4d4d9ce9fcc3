import type { Knex } from 'knex';

/** Services with their revisions, and the call log: partitioned by day through the time in its UUIDv7 keys. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('revisions', (table) => {
    table.text('service').notNullable();
    table.integer('revision').notNullable();
    table.text('file').notNullable();
    table.text('note');
    table.timestamp('saved_at', { useTz: true }).notNullable();
    table.primary(['service', 'revision']);
  });
  await knex.raw(`
    create table calls (
      id uuid primary key,
      service text not null,
      version text,
      revision integer not null,
      operation text,
      case_name text,
      lane text not null,
      answered_by text not null,
      stray boolean not null,
      state text not null,
      method text not null,
      url text not null,
      status smallint,
      detail json not null,
      request_body bytea,
      response_body bytea
    ) partition by range (id)`);
  await knex.raw('create index calls_strays on calls (id) where stray');
  await knex.raw('create table calls_other partition of calls default');
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('calls');
  await knex.schema.dropTable('revisions');
}
