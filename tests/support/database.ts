import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import knexFactory from 'knex';

/** A database of its own on the test server, gone after the test. */
export interface TestDatabase {
  readonly url: string;
  readonly drop: () => Promise<void>;
}

export async function createDatabase(): Promise<TestDatabase> {
  const base = findServer();
  const name = `test_${randomBytes(6).toString('hex')}`;
  const admin = knexFactory({ client: 'pg', connection: base, pool: { min: 0, max: 1 } });
  await admin.raw(`create database ${name}`);
  const url = base.replace(/\/[^/]*$/, `/${name}`);
  return {
    url,
    drop: async () => {
      await admin.raw(`drop database if exists ${name} with (force)`);
      await admin.destroy();
    },
  };
}

/** The server that scripts/test names, or the one that scripts/pg.sh has started here. */
function findServer(): string {
  const written = fileURLToPath(new URL('../../.pg/url', import.meta.url));
  const url =
    process.env['UPSETTER_TEST_DATABASE_URL'] ??
    (existsSync(written) ? readFileSync(written, 'utf8').trim() : undefined);
  if (url === undefined) throw new Error('no test server: start one with scripts/pg.sh start, or run scripts/test');
  return url;
}
