import { AppError } from '@upsetter/core';
import pg from 'pg';

/** The advisory lock by which one process at a time serves a database; any number that is ours alone. */
const LOCK_KEY = 4600_1726;
const RETRY_MS = 2_000;

export interface ProcessLock {
  /** Fails with `store-in-use` when another process holds it. */
  readonly acquire: () => Promise<void>;
  readonly release: () => Promise<void>;
}

/** Holds the lock on a connection of its own, and takes it again when that connection was lost. */
export function createProcessLock(url: string, onTrouble: (message: string) => void): ProcessLock {
  let client: pg.Client | null = null;
  let isReleased = false;
  const acquire = async (): Promise<void> => {
    const next = new pg.Client({ connectionString: url, application_name: 'upsetter lock' });
    next.on('error', () => retry());
    await next.connect();
    const { rows } = await next.query<{ held: boolean }>('select pg_try_advisory_lock($1) as held', [LOCK_KEY]);
    if (rows[0]?.held !== true) {
      await next.end();
      throw new AppError('store-in-use', 'another upsetter process serves this database already');
    }
    client = next;
  };
  const retry = (): void => {
    client = null;
    if (isReleased) return;
    setTimeout(() => {
      if (isReleased) return;
      acquire().catch((error: Error) => {
        if (error instanceof AppError) onTrouble(error.message);
        retry();
      });
    }, RETRY_MS).unref();
  };
  return {
    acquire,
    release: async () => {
      isReleased = true;
      await client?.end().catch(() => {});
    },
  };
}
