import type { Knex } from 'knex';
import type { ServiceRepository, StoredRevision } from '../store.js';
import { withStoreErrors } from './store-errors.js';

interface RevisionRow {
  readonly service: string;
  readonly revision: number;
  readonly file: string;
  readonly files: StoredRevision['files'];
  readonly note: string | null;
  readonly saved_at: Date;
}

const COLUMNS = ['service', 'revision', 'file', 'files', 'note', 'saved_at'] as const;

export function createServiceRepository(knex: Knex): ServiceRepository {
  const rows = () => knex<RevisionRow>('revisions');
  return {
    list: () =>
      withStoreErrors(async () => {
        const latest = (await rows()
          .distinctOn('service')
          .select(...COLUMNS)
          .orderBy('service')
          .orderBy('revision', 'desc')) as RevisionRow[];
        return latest.map(toRevision).filter(({ file }) => file !== '');
      }),
    history: (service) =>
      withStoreErrors(async () =>
        (
          (await rows()
            .select(...COLUMNS)
            .where({ service })
            .orderBy('revision', 'desc')) as RevisionRow[]
        ).map(toRevision),
      ),
    find: (service, revision) =>
      withStoreErrors(async () => {
        const row = (await rows()
          .select(...COLUMNS)
          .where({ service, revision })
          .first()) as RevisionRow | undefined;
        return row === undefined ? null : toRevision(row);
      }),
    save: (revision) => withStoreErrors(() => insertRevision(knex, revision)),
    ports: () =>
      withStoreErrors(async () => {
        const kept = await knex<{ service: string; port: number }>('kept_ports').select('service', 'port');
        return new Map(kept.map(({ service, port }) => [service, port]));
      }),
    keepPort: (service, port) =>
      withStoreErrors(async () => {
        if (port === null) await knex('kept_ports').where({ service }).delete();
        else await knex('kept_ports').insert({ service, port }).onConflict('service').merge();
      }),
  };
}

/** A saved service is on the disk before the reply; only the call log may lag (see `createKnex`). */
async function insertRevision(knex: Knex, { savedAtMs, files, ...revision }: StoredRevision): Promise<void> {
  await knex.transaction(async (transaction) => {
    await transaction.raw('set local synchronous_commit = on');
    await transaction('revisions').insert({ ...revision, files: JSON.stringify(files), saved_at: new Date(savedAtMs) });
  });
}

function toRevision({ saved_at, ...row }: RevisionRow): StoredRevision {
  return { ...row, savedAtMs: saved_at.getTime() };
}
