import { randomBytes } from 'node:crypto';
import knexFactory from 'knex';

/** A database of its own on the test server, gone after the test. */
export interface TestDatabase {
  readonly url: string;
  readonly drop: () => Promise<void>;
}

export async function createDatabase(): Promise<TestDatabase> {
  const base = process.env['UPSETTER_TEST_DATABASE_URL'];
  if (base === undefined)
    throw new Error('UPSETTER_TEST_DATABASE_URL is not set: run scripts/test, or export it from scripts/pg.sh start');
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
