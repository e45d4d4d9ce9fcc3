import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { readdirSync, readFileSync } from 'node:fs';
import { mkdtemp, readFile, watch, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { BENCH_SERVICE } from './service-file.js';

/** A server that is measured, in a process of its own. */
export interface Contestant {
  readonly name: string;
  readonly url: string;
  /** CPU seconds it has used so far, user and system; with PostgreSQL's apart. */
  readonly cpuSeconds: () => { own: number; database: number };
  readonly pid: number;
  /** Address of the control plane; empty where there is none. */
  readonly control: string;
  readonly stop: () => Promise<void>;
}

const COMMAND = fileURLToPath(new URL('../../../cli/bin/upsetter.js', import.meta.url));

export async function startPlainServer(): Promise<Contestant> {
  const child = spawn(process.execPath, [fileURLToPath(new URL('./plain-server.js', import.meta.url))], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const [line] = (await once(child.stdout, 'data')) as [Buffer];
  return contestant('hand-written Fastify 5', String(line).trim(), child, '');
}

/** `upsetter run`: in memory. */
export async function startRun(): Promise<Contestant> {
  const directory = await mkdtemp(join(tmpdir(), 'upsetter-bench-'));
  const file = join(directory, 'bench.yaml');
  await writeFile(file, BENCH_SERVICE);
  const { child, ready } = await startUpsetter(directory, ['run', file, '--port', '0']);
  return contestant('upsetter run', ready.services['bench'] ?? '', child, ready.control);
}

/** `upsetter up`: every call recorded in PostgreSQL. */
export async function startUp(databaseUrl: string): Promise<Contestant> {
  const directory = await mkdtemp(join(tmpdir(), 'upsetter-bench-'));
  const { child, ready } = await startUpsetter(directory, [
    'up',
    '--port',
    '0',
    '--mock-ports',
    '0',
    '--database',
    databaseUrl,
  ]);
  const saved = await fetch(`${ready.control}/api/services/bench`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ file: BENCH_SERVICE }),
  });
  const { address } = (await saved.json()) as { address: string };
  return contestant('upsetter up, every call in PostgreSQL', address, child, ready.control);
}

interface Ready {
  readonly control: string;
  readonly services: Readonly<Record<string, string>>;
}

async function startUpsetter(
  directory: string,
  args: readonly string[],
): Promise<{ child: ChildProcess; ready: Ready }> {
  const appeared = waitForFile(directory, 'ready.json');
  const child = spawn(process.execPath, [COMMAND, ...args, '--ready', join(directory, 'ready.json')], {
    stdio: ['ignore', 'ignore', 'ignore'],
  });
  await appeared;
  return { child, ready: JSON.parse(await readFile(join(directory, 'ready.json'), 'utf8')) as Ready };
}

async function waitForFile(directory: string, name: string): Promise<void> {
  for await (const { filename } of watch(directory)) if (filename === name) return;
}

function contestant(name: string, url: string, child: ChildProcess, control: string): Contestant {
  return {
    name,
    url,
    control,
    pid: child.pid ?? 0,
    cpuSeconds: () => ({ own: cpuOf(String(child.pid)), database: databaseCpu() }),
    stop: async () => {
      const exited = once(child, 'exit');
      child.kill('SIGTERM');
      await exited;
    },
  };
}

/** Linux counts CPU time in hundredths of a second (USER_HZ), whatever the kernel's own clock. */
const TICKS_PER_SECOND = 100;

function cpuOf(pid: string): number {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
    return (Number(fields[11]) + Number(fields[12])) / TICKS_PER_SECOND;
  } catch {
    return 0;
  }
}

function databaseCpu(): number {
  const pids = readdirSync('/proc').filter((name) => /^\d+$/.test(name) && isPostgres(name));
  return pids.reduce((sum, pid) => sum + cpuOf(pid), 0);
}

function isPostgres(pid: string): boolean {
  try {
    return readFileSync(`/proc/${pid}/comm`, 'utf8').trim() === 'postgres';
  } catch {
    return false;
  }
}
