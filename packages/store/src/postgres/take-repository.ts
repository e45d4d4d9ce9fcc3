import type { Exchange } from '@upsetter/core';
import type { Knex } from 'knex';
import type { StoredTake, TakeRepository } from '../store.js';
import { withStoreErrors } from './store-errors.js';

interface TakeRow {
  readonly name: string;
  readonly source: string;
  readonly upstream: string | null;
  readonly state: string;
  readonly started_at: Date;
  readonly ended_at: Date | null;
  readonly trouble: string | null;
  readonly masked: StoredTake['masked'];
  readonly hosts: StoredTake['hosts'];
}

interface ExchangeRow {
  readonly take: string;
  readonly index: number;
  readonly exchange: Exchange;
}

/** Rows in one statement: PostgreSQL takes at most 65,535 parameters, and a batch should stay small. */
const MOST_IN_BATCH = 200;

export function createTakeRepository(knex: Knex): TakeRepository {
  return {
    list: () =>
      withStoreErrors(async () => {
        const rows = (await knex<TakeRow>('takes').select('*').orderBy('started_at', 'desc')) as TakeRow[];
        return rows.map(toTake);
      }),
    save: (take) =>
      withStoreErrors(async () => {
        await knex('takes').insert(toRow(take)).onConflict('name').merge();
      }),
    remove: (name) =>
      withStoreErrors(async () => {
        await knex('takes').where({ name }).delete();
      }),
    write: (take, exchanges) =>
      withStoreErrors(async () => {
        for (let from = 0; from < exchanges.length; from += MOST_IN_BATCH) {
          const rows = exchanges.slice(from, from + MOST_IN_BATCH).map((exchange) => ({
            take,
            index: exchange.index,
            exchange: JSON.stringify(exchange),
          }));
          await knex('exchanges').insert(rows).onConflict(['take', 'index']).merge();
        }
      }),
    exchanges: (take, after, limit) =>
      withStoreErrors(async () => {
        const rows = (await knex<ExchangeRow>('exchanges')
          .select('exchange')
          .where({ take })
          .andWhere('index', '>', after)
          .orderBy('index')
          .limit(limit)) as Pick<ExchangeRow, 'exchange'>[];
        return rows.map(({ exchange }) => exchange);
      }),
    counts: () =>
      withStoreErrors(async () => {
        const rows = (await knex('exchanges').select('take').count('* as count').groupBy('take')) as {
          take: string;
          count: string;
        }[];
        return new Map(rows.map(({ take, count }) => [take, Number(count)]));
      }),
  };
}

function toRow(take: StoredTake): Record<string, unknown> {
  return {
    name: take.name,
    source: take.source,
    upstream: take.upstream,
    state: take.state,
    started_at: new Date(take.startedAtMs),
    ended_at: take.endedAtMs === null ? null : new Date(take.endedAtMs),
    trouble: take.trouble,
    masked: JSON.stringify(take.masked),
    hosts: JSON.stringify(take.hosts),
  };
}

function toTake(row: TakeRow): StoredTake {
  return {
    name: row.name,
    source: row.source as StoredTake['source'],
    upstream: row.upstream,
    state: row.state as StoredTake['state'],
    startedAtMs: row.started_at.getTime(),
    endedAtMs: row.ended_at?.getTime() ?? null,
    trouble: row.trouble,
    masked: row.masked,
    hosts: row.hosts,
  };
}
