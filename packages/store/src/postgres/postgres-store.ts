import { fileURLToPath } from 'node:url';
import knexFactory, { type Knex } from 'knex';
import type { Store } from '../store.js';
import { tendCallPartitions } from './call-partitions.js';
import { createCallRepository } from './call-repository.js';
import { createFeedRepository } from './feed-repository.js';
import { createProcessLock } from './process-lock.js';
import { createServiceRepository } from './service-repository.js';
import { withStoreErrors } from './store-errors.js';
import { createTakeRepository } from './take-repository.js';
import { createTrialRepository } from './trial-repository.js';

const MOST_CONNECTIONS = 4;
const ACQUIRE_MS = 3_000;
const CONNECT_MS = 3_000;
const TEND_EVERY_MS = 3_600_000;

export interface PostgresStoreOptions {
  readonly url: string;
  readonly onTrouble: (message: string) => void;
}

/** The store of the long-running service. `start` migrates; one process at a time serves a database. */
export function createPostgresStore(options: PostgresStoreOptions): Store {
  const knex = createKnex(options.url);
  const lock = createProcessLock(options.url, options.onTrouble);
  let tending: NodeJS.Timeout | null = null;
  const tend = (): Promise<void> => tendCallPartitions(knex, Date.now());
  return {
    kind: 'postgres',
    services: createServiceRepository(knex),
    takes: createTakeRepository(knex),
    trials: createTrialRepository(knex),
    feeds: createFeedRepository(knex),
    calls: createCallRepository(knex),
    start: () =>
      withStoreErrors(async () => {
        await lock.acquire();
        await knex.migrate.latest();
        await tend();
        tending = setInterval(
          () => tend().catch((error: Error) => options.onTrouble(`call partitions: ${error.message}`)),
          TEND_EVERY_MS,
        ).unref();
      }),
    stop: async () => {
      if (tending !== null) clearInterval(tending);
      await lock.release();
      await knex.destroy();
    },
  };
}

function createKnex(url: string): Knex {
  return knexFactory({
    client: 'pg',
    // A lost half second of the log after a crash of the database server is worth a log that keeps up with the calls.
    connection: {
      connectionString: url,
      application_name: 'upsetter',
      connectionTimeoutMillis: CONNECT_MS,
      options: '-c synchronous_commit=off',
    },
    pool: { min: 0, max: MOST_CONNECTIONS },
    acquireConnectionTimeout: ACQUIRE_MS,
    // Knex writes to the console by itself; what it has to say comes to us as errors.
    log: { warn: () => {}, error: () => {}, deprecate: () => {}, debug: () => {} },
    migrations: { directory: fileURLToPath(new URL('../migrations', import.meta.url)), loadExtensions: ['.js'] },
  });
}
