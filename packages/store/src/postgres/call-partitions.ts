import type { Knex } from 'knex';

const MS_PER_DAY = 86_400_000;

/** Days of calls that are kept. */
export const KEPT_DAYS = 14;

/** Partitions for today and tomorrow, none older than the kept days. Safe to repeat. */
export async function tendCallPartitions(knex: Knex, nowMs: number): Promise<void> {
  const today = Math.floor(nowMs / MS_PER_DAY);
  for (const day of [today, today + 1]) {
    const name = partitionName(day);
    const exists = await knex.schema.hasTable(name);
    if (!exists)
      await knex.raw(
        `create table ${name} partition of calls for values from ('${firstId(day)}') to ('${firstId(day + 1)}')`,
      );
  }
  const kept = await knex('pg_tables')
    .where('tablename', 'like', 'calls\\_day\\_%')
    .andWhereRaw('schemaname = current_schema()')
    .pluck('tablename');
  for (const name of kept as string[]) {
    if (/^calls_day_\d+$/.test(name) && Number(name.slice('calls_day_'.length)) < today - KEPT_DAYS)
      await knex.schema.dropTable(name);
  }
}

function partitionName(day: number): string {
  return `calls_day_${day}`;
}

/** The smallest UUIDv7 (RFC 9562, 5.7) of a day: its first 48 bits are the milliseconds since 1970. */
function firstId(day: number): string {
  const hex = (day * MS_PER_DAY).toString(16).padStart(12, '0');
  return `${hex.slice(0, 8)}-${hex.slice(8)}-0000-0000-000000000000`;
}
