import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { type CallRecord, maskTarget, NO_SECRETS } from '@upsetter/core';
import type { Knex } from 'knex';
import type { PoolClient } from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import type { CallFilter, CallRepository } from '../store.js';
import { CALL_COLUMNS, type CallRow, toDetail, toRecord } from './call-row.js';
import { toCopyLine } from './copy-text.js';
import { withStoreErrors } from './store-errors.js';

const COPY = `copy calls (${CALL_COLUMNS.join(', ')}) from stdin`;

export function createCallRepository(knex: Knex): CallRepository {
  return {
    write: (records) => withStoreErrors(() => copyRecords(knex, records)),
    writeAgain: (record) => withStoreErrors(() => upsertRecord(knex, record)),
    list: (filter) => withStoreErrors(() => listRecords(knex, filter)),
    find: (id) => withStoreErrors(() => findRecord(knex, id)),
    findAlike: (fragment) => withStoreErrors(() => findAlike(knex, fragment)),
  };
}

async function copyRecords(knex: Knex, records: readonly CallRecord[]): Promise<void> {
  const connection = (await knex.client.acquireConnection()) as PoolClient;
  try {
    await pipeline(Readable.from([records.map(toCopyLine).join('')]), connection.query(copyFrom(COPY)));
  } finally {
    await knex.client.releaseConnection(connection);
  }
}

async function upsertRecord(knex: Knex, record: CallRecord): Promise<void> {
  const { request } = record;
  await knex('calls')
    .insert({
      id: request.id,
      service: record.service,
      version: record.version,
      revision: record.revision,
      operation: record.operation,
      case_name: record.caseName,
      lane: request.lane,
      answered_by: record.answeredBy,
      stray: record.isStray,
      state: record.state,
      method: request.method,
      url: maskTarget(request.target, record.compiled?.secrets ?? NO_SECRETS),
      status: record.status,
      detail: JSON.stringify(toDetail(record)),
      request_body: toBuffer(request.body),
      response_body: toBuffer(record.responseBody),
    })
    .onConflict('id')
    .merge();
}

function toBuffer(body: string | Uint8Array | null): Buffer | null {
  return body === null ? null : Buffer.from(body as string);
}

async function listRecords(knex: Knex, filter: CallFilter): Promise<CallRecord[]> {
  const query = knex<CallRow>('calls')
    .select(...CALL_COLUMNS)
    .orderBy('id', 'desc')
    .limit(filter.limit);
  if (filter.service !== null) query.where('service', filter.service);
  if (filter.operation !== null) query.where('operation', filter.operation);
  if (filter.lane !== null) query.where('lane', filter.lane);
  if (filter.straysOnly) query.where('stray', true);
  if (filter.findingsOnly) query.whereRaw("detail -> 'findings' is not null");
  if (filter.before !== null) query.where('id', '<', filter.before);
  return ((await query) as CallRow[]).map(toRecord);
}

async function findRecord(knex: Knex, id: string): Promise<CallRecord | null> {
  const row = (await knex<CallRow>('calls')
    .select(...CALL_COLUMNS)
    .where('id', id)
    .first()) as CallRow | undefined;
  return row === undefined ? null : toRecord(row);
}

async function findAlike(knex: Knex, fragment: string): Promise<CallRecord[]> {
  const pattern = fragment.replace(/[^0-9a-f-]/g, '');
  const rows = await knex<CallRow>('calls')
    .select(...CALL_COLUMNS)
    .whereRaw('(id::text like ? or id::text like ?)', [`%${pattern}`, `${pattern}%`])
    .orderBy('id', 'desc')
    .limit(2);
  return (rows as CallRow[]).map(toRecord);
}
