import { execFile } from 'node:child_process';
import { chmod, chown, copyFile, mkdtemp, readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import pg from 'pg';
import { afterEach, describe, expect, test } from 'vitest';

const SCRIPT = fileURLToPath(new URL('../../scripts/pg.sh', import.meta.url));
const run = promisify(execFile);
const isRoot = process.getuid?.() === 0;
const NOBODY = 65534;

const homes: { home: string; asNobody: boolean }[] = [];

/** Runs the script on a folder of the test's own, as root or as a normal user. */
async function database(command: string, home: string, asNobody = false): Promise<string> {
  const env = { ...process.env, PG_HOME: home };
  const [program, args] = asNobody
    ? ['runuser', ['-u', 'nobody', '--', join(home, '..', 'pg.sh'), command]]
    : [SCRIPT, [command]];
  const { stdout } = await run(program as string, args as string[], { env, cwd: '/' });
  return stdout.trim();
}

async function query(url: string): Promise<unknown> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  const { rows } = await client.query('select inet_server_addr()::text as address');
  await client.end();
  return rows[0];
}

afterEach(async () => {
  for (const { home, asNobody } of homes.splice(0)) await database('destroy', home, asNobody);
});

describe('scripts/pg.sh', () => {
  test('starts a server on loopback, again without harm, and on the same address after a stop', async () => {
    const home = join(await mkdtemp(join(tmpdir(), 'upsetter-pg-')), 'pg');
    await chmod(join(home, '..'), 0o755);
    homes.push({ home, asNobody: false });
    const url = await database('start', home);
    expect(await query(url)).toEqual({ address: '127.0.0.1/32' });
    expect(await database('start', home)).toBe(url);
    await database('stop', home);
    await database('stop', home);
    expect(await database('start', home)).toBe(url);
    await expect(query(url.replace(/:[^:@/]+@/, ':wrong@'))).rejects.toThrow(/password/);
  });

  test.runIf(isRoot)(
    'starts for root where the parents of the folder are closed to others, and leaves them closed',
    async () => {
      const closed = await mkdtemp(join(tmpdir(), 'upsetter-closed-'));
      await chmod(closed, 0o700);
      const home = join(closed, 'pg');
      homes.push({ home, asNobody: false });
      expect(await query(await database('start', home))).toEqual({ address: '127.0.0.1/32' });
      expect((await run('stat', ['-c', '%a', closed])).stdout.trim()).toBe('700');
      expect(await readFile(join(home, 'datadir'), 'utf8')).not.toContain(closed);
    },
  );

  test.runIf(isRoot)('starts for a normal user, in a folder of their own', async () => {
    const own = await mkdtemp(join(tmpdir(), 'upsetter-nobody-'));
    await copyFile(SCRIPT, join(own, 'pg.sh'));
    await chown(own, NOBODY, NOBODY);
    const home = join(own, 'pg');
    homes.push({ home, asNobody: true });
    expect(await query(await database('start', home, true))).toEqual({ address: '127.0.0.1/32' });
  });
});
