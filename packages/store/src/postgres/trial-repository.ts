import type { TriedStep } from '@upsetter/core';
import type { Knex } from 'knex';
import { KEPT_TRIALS, type StoredTrial, type TrialRepository } from '../store.js';
import { withStoreErrors } from './store-errors.js';

interface TrialRow {
  readonly id: string;
  readonly service: string;
  readonly environment: string;
  readonly against: string;
  readonly state: string;
  readonly trouble: string | null;
  readonly started_at: Date;
  readonly ended_at: Date | null;
  readonly counts: StoredTrial['counts'];
  readonly changes: StoredTrial['changes'];
}

const COLUMNS = [
  'id',
  'service',
  'environment',
  'against',
  'state',
  'trouble',
  'started_at',
  'ended_at',
  'counts',
  'changes',
];

export function createTrialRepository(knex: Knex): TrialRepository {
  return {
    list: (service) =>
      withStoreErrors(async () => {
        const rows: TrialRow[] = await knex('trials').select(COLUMNS).where({ service }).orderBy('started_at', 'desc');
        return rows.map(toTrial);
      }),
    find: (id) =>
      withStoreErrors(async () => {
        const row = (await knex('trials').select('*').where({ id }).first()) as
          | (TrialRow & { steps: TriedStep[] })
          | undefined;
        return row === undefined ? null : { trial: toTrial(row), steps: row.steps };
      }),
    save: (trial, steps) =>
      withStoreErrors(async () => {
        await knex('trials').insert({ ...toRow(trial), steps: JSON.stringify(steps) });
        const { service, environment } = trial;
        const kept = knex('trials')
          .select('id')
          .where({ service, environment })
          .orderBy('started_at', 'desc')
          .limit(KEPT_TRIALS);
        await knex('trials').where({ service, environment }).whereNotIn('id', kept).delete();
      }),
  };
}

function toRow(trial: StoredTrial): Record<string, unknown> {
  return {
    id: trial.id,
    service: trial.service,
    environment: trial.environment,
    against: trial.against,
    state: trial.state,
    trouble: trial.trouble,
    started_at: new Date(trial.startedAtMs),
    ended_at: new Date(trial.endedAtMs),
    counts: JSON.stringify(trial.counts),
    changes: trial.changes === null ? null : JSON.stringify(trial.changes),
  };
}

function toTrial(row: TrialRow): StoredTrial {
  return {
    id: row.id,
    service: row.service,
    environment: row.environment,
    against: row.against,
    state: row.state as StoredTrial['state'],
    trouble: row.trouble,
    startedAtMs: row.started_at.getTime(),
    endedAtMs: row.ended_at?.getTime() ?? row.started_at.getTime(),
    counts: row.counts,
    changes: row.changes,
  };
}
